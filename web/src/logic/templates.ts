/** Templates as a viewer would see them, before anybody called. */

export interface PretendViewer {
  name: string
  text: string
}

/** The names of a template filled in for the pretend viewer; one known only on air stays as it is. */
export function filledFor(template: string, viewer: PretendViewer): string {
  const values: Record<string, string> = { viewer: viewer.name, text: viewer.text || '…' }
  return template.replace(
    /\{\{\{?\s*&?\s*([a-z_]+)\s*\}?\}\}/g,
    (whole, name: string) => values[name] ?? whole,
  )
}
