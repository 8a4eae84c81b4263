/** Base voices as choices: by language, those of this computer's language first. */
import type { Schemas } from '@/api/client'
import type { Choice } from '@/parts/choice'

type Voice = Schemas['Voices']['voices'][number]

const THROATS: Record<string, string> = { m: 'man', f: 'woman' }

/** *m3* is a third man's throat. */
export function sayThroat(variant: string): string {
  const found = /^([mf])(\d)$/.exec(variant)
  return found ? `${THROATS[found[1] ?? '']} ${found[2]}` : variant
}

/** A language's name here; a code unknown to the browser keeps the voice's own name. */
function languageOf(code: string, names: Intl.DisplayNames): string {
  try {
    const name = names.of(code)
    return name && name !== code ? name : ''
  } catch {
    return ''
  }
}

export function voiceChoices(voices: readonly Voice[], here: string): Choice[] {
  const names = new Intl.DisplayNames(['en'], { type: 'language' })
  const own = here.split('-')[0] ?? ''
  const rows = voices.map((voice) => {
    const code = voice.language.split('-')[0] ?? ''
    const group = languageOf(code, names) || voice.name.replace(/ \(.*\)$/, '')
    return { value: voice.id, name: voice.name, group, isOwn: code === own }
  })
  rows.sort(
    (a, b) =>
      Number(b.isOwn) - Number(a.isOwn) || a.group.localeCompare(b.group) || a.name.localeCompare(b.name),
  )
  return rows.map(({ value, name, group }) => ({ value, name, group }))
}
