/** Escape closes the topmost popover, and nothing else. */
import { useEventListener } from '@vueuse/core'
import { useRest } from './useRest'

function upperPopover(): HTMLElement | undefined {
  const shown = [...document.querySelectorAll<HTMLElement>('.el-popover')].filter((one) => one.offsetParent)
  return shown.sort((a, b) => Number(a.style.zIndex) - Number(b.style.zIndex)).at(-1)
}

/** Whether a list of choices is open inside it: that closes first, by itself. */
function choosesIn(popover: HTMLElement): boolean {
  const lists = [...document.querySelectorAll<HTMLElement>('.el-select__popper')]
  return lists.some((list) => list.offsetParent && popover.contains(list))
}

export function useEscape(): void {
  const { withdraw } = useRest()
  useEventListener(
    window,
    'keydown',
    (event: KeyboardEvent) => {
      const upper = event.key === 'Escape' && !event.shiftKey ? upperPopover() : undefined
      if (!upper || choosesIn(upper)) return
      const offered = upper.classList.contains('offer')
      const named = `[aria-controls="${upper.id}"], [aria-describedby="${upper.id}"]`
      const opener = document.querySelector<HTMLElement>(named)
      if (!offered && !opener) return
      event.preventDefault()
      event.stopImmediatePropagation()
      // Pressing the button of an open offer does something else.
      if (offered) withdraw()
      else opener?.click()
      opener?.focus()
    },
    { capture: true },
  )
}
