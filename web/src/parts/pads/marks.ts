/** The marks and colours that a pad may have. A mark is path data in a box of 24, filled with even-odd holes. */
import type { Schemas } from '@/api/client'

export type Face = Schemas['PadFace']
export type PadColour = NonNullable<Face['colour']>
export type PadMark = NonNullable<Face['mark']>

export const PAD_MARKS: Record<PadMark, { name: string; path: string }> = {
  whistle: { name: 'Whistle', path: 'M2 9h13l5-4 2 3-4 3v1a6 6 0 1 1-11.500-1H2zm10 1a3 3 0 1 0 .1 0z' },
  bell: { name: 'Bell', path: 'M12 2l2 2c4 1 5 5 5 8v4l2 3H3l2-3v-4c0-3 1-7 5-8zM9 20h6l-3 3z' },
  lantern: { name: 'Lantern', path: 'M9 2h6v3l3 3v11l-2 3H8l-2-3V8l3-3zm0 8v8h6v-8zm2 1h2v6h-2z' },
  train: {
    name: 'Train',
    path: 'M4 3h6v5h5V5h3v3h3v9H3V6h1zm2 3v3h2V6zM7 18a2 2 0 1 0 .1 0zm9 0a2 2 0 1 0 .1 0z',
  },
  signal: { name: 'Signal', path: 'M10 9 2 5v5l8 2v10h4V2h-4zM18 4a3 3 0 1 0 .1 0z' },
  kettle: { name: 'Kettle', path: 'M10 3h4v2c4 1 5 4 5 7l3-3v3l-3 5v3H6v-3C4 14 5 6 10 5zM3 8h3v2H4v6H2z' },
  note: { name: 'Note', path: 'M9 3l11-1v15a3.500 3 0 1 1-3-3V7l-5 .5V19a3.500 3 0 1 1-3-3z' },
  star: { name: 'Star', path: 'M12 1l3 7 8 1-6 5 2 8-7-4-7 4 2-8-6-5 8-1z' },
  letter: { name: 'Letter', path: 'M2 5h20v14H2zm2 2v1l8 5 8-5V7zm0 4v6h16v-6l-8 5z' },
  bird: {
    name: 'Bird',
    path: 'M3 9c4 0 5-5 10-5 4 0 5 3 5 3l4 1-4 2c0 6-4 9-8 9l-2 3v-4C4 17 3 13 3 9zm11-3a1 1 0 1 0 .1 0z',
  },
}

export const PAD_COLOURS: PadColour[] = [
  'marmalade',
  'mint',
  'sky',
  'sage',
  'teal',
  'straw',
  'rose',
  'sand',
  'slate',
  'lilac',
  'plum',
  'brick',
]
