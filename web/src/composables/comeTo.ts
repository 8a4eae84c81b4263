/** Scrolls to what was just added, and focuses its first field. */
import { nextTick } from 'vue'

const WAITS_MS = 3000

export async function comeTo(css: string): Promise<void> {
  const end = Date.now() + WAITS_MS
  for (;;) {
    await nextTick()
    const node = document.querySelector<HTMLElement>(css)
    if (node) {
      node.scrollIntoView({ block: 'center' })
      node
        .querySelector<HTMLElement>('input:not([type=checkbox]):not([disabled]), textarea, .el-select')
        ?.focus()
      return
    }
    if (Date.now() > end) return
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
}
