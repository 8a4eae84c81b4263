/** A first cue: from a file, or one of three ready-made ones; each with a reward of its own. */
import type { AnyBeat, Cue } from '@/api/client'
import { useBook } from '@/composables/useBook'
import { useGear } from '@/composables/useGear'
import { freeId } from '@/logic/ids'

export interface Ready {
  id: string
  title: string
  does: string
  /** Why it can't be made now. */
  not: string
  make: () => Promise<void>
}

const COST = 100

export function useFirstCue() {
  const book = useBook()
  const gear = useGear()

  /** Gives the cue its name, a reward of that name and whatever else it needs. */
  async function tie(cue: Cue, name: string, more: Partial<Cue> = {}, text = false): Promise<void> {
    const id = freeId(cue.id, new Set(book.book?.rewards.map((reward) => reward.id)))
    await book.put('rewards', { id, title: name, cost: COST, text })
    const calls = [{ kind: 'reward' as const, reward: id }]
    await book.put('cues', { ...cue, ...more, name, calls } as never)
  }

  async function shipped(name: string, type: string): Promise<File> {
    const answer = await fetch(`/api/ready/${name}`)
    return new File([await answer.blob()], name, { type })
  }

  async function fromFiles(files: File[]): Promise<void> {
    const ids = await book.addFiles(files)
    if (!ids.length) return
    const cue = await book.newCue(ids)
    await tie(cue, cue.name)
  }

  async function withBeats(
    name: string,
    beats: unknown[],
    more: Partial<Cue> = {},
    text = false,
  ): Promise<void> {
    const cue = await book.newCue([])
    await tie(cue, name, { ...more, beats: beats as AnyBeat[] } as Partial<Cue>, text)
  }

  function otherScene(): string | undefined {
    const scenes = Object.keys(gear.broadcast?.scenes ?? {})
    const row = gear.gear.find((one) => one.kind === 'broadcaster')
    const now = row?.properties.find((one) => one.path === 'broadcast/scene')?.actual
    return scenes.find((scene) => scene !== now)
  }

  function ready(): Ready[] {
    const scene = otherScene()
    return [
      {
        id: 'picture',
        title: 'A picture with a sound',
        does: 'The kettle steams, a bell rings.',
        not: '',
        make: async () => {
          const files = [
            await shipped('poster-tea.gif', 'image/gif'),
            await shipped('platform-bell.ogg', 'audio/ogg'),
          ]
          const cue = await book.newCue(await book.addFiles(files))
          await tie(cue, 'Kettle on')
        },
      },
      {
        id: 'speech',
        title: 'Read aloud',
        does: 'Reads the viewer’s text aloud and shows it.',
        not: '',
        make: () => {
          const words = {
            id: 'words',
            kind: 'speech',
            text: '{{viewer}} says: {{text}}',
            length: 'natural',
            caption: true,
          }
          return withBeats('Announcement', [words], { door: { text: { need: true } } } as never, true)
        },
      },
      {
        id: 'scene',
        title: 'Another scene, and back',
        does: scene
          ? `“${scene}” for eight seconds, then back to what was there.`
          : 'For eight seconds, then back.',
        not: scene ? '' : 'Needs a broadcaster with two scenes.',
        make: () =>
          withBeats('A look elsewhere', [
            { id: 'scene', kind: 'scene', scene: scene ?? '', length: { s: 8 } },
          ]),
      },
    ]
  }

  return { fromFiles, ready }
}
