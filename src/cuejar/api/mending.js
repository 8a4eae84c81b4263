/** Chooses without leaving the page, and goes on to the desk once that answers. Without it the form does the same, less patiently. */
const EVERY_MS = 700

async function up() {
  try {
    return (await fetch('/api/health')).ok
  } catch {
    return false
  }
}

document.addEventListener('submit', async (event) => {
  event.preventDefault()
  const body = new URLSearchParams({ choice: event.submitter.value })
  for (const button of document.querySelectorAll('button')) button.disabled = true
  const answer = await fetch('/mend', { method: 'POST', body })
  const page = new DOMParser().parseFromString(await answer.text(), 'text/html')
  document.title = page.title
  document.body.replaceChildren(...page.body.childNodes)
  if (!document.querySelector('[role=status]')) return
  while (!(await up())) await new Promise((go) => setTimeout(go, EVERY_MS))
  location.href = '/desk'
})
