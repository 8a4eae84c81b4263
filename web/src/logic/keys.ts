/** Whether a key goes into a field. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement
  return target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName)
}
