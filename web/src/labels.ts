/** The pages of the navigation bar. */
interface PageEntry {
  path: string
  name: string
}

/** Pages with sub-pages, by the path of their label. */
const ROOMS_OF: Record<string, PageEntry[]> = {
  '/desk': [
    { path: '/desk', name: 'Desk' },
    { path: '/lanes', name: 'Lanes' },
  ],
  '/cues': [
    { path: '/cues', name: 'Cues' },
    { path: '/snags', name: 'Snags' },
    { path: '/books', name: 'History' },
  ],
  '/rewards': [
    { path: '/rewards', name: 'Rewards' },
    { path: '/counts', name: 'Counts' },
  ],
  '/pads': [
    { path: '/pads', name: 'Pads' },
    { path: '/phrases', name: 'Phrases' },
  ],
  '/ledger': [
    { path: '/ledger', name: 'Ledger' },
    { path: '/nights', name: 'Nights' },
    { path: '/viewers', name: 'Viewers' },
  ],
}

/** The label of a path. */
export function labelOf(path: string): string {
  const of = Object.entries(ROOMS_OF).find(([, rooms]) => rooms.some((room) => path.startsWith(room.path)))
  return of?.[0] ?? PAGES.find((page) => path.startsWith(page.path))?.path ?? ''
}

/** The sub-pages beside a path; none while a cue is edited. */
export function roomsOf(path: string): PageEntry[] {
  return path.startsWith('/cues/') ? [] : (ROOMS_OF[labelOf(path)] ?? [])
}

/** Every page for the search, with other words for its content. */
export const ROOMS: (PageEntry & { words: string[] })[] = [
  { path: '/desk', name: 'Desk', words: ['live', 'volume', 'now'] },
  { path: '/lanes', name: 'Lanes', words: ['lane', 'line', 'queue', 'wait', 'gap', 'order'] },
  { path: '/cues', name: 'Cues', words: ['effects'] },
  { path: '/rewards', name: 'Rewards', words: ['price', 'points', 'sets'] },
  { path: '/counts', name: 'Counts', words: ['goal', 'progress', 'bar', 'every', 'number'] },
  { path: '/jars', name: 'Jars', words: ['random', 'draw'] },
  { path: '/media', name: 'Media', words: ['pictures', 'clips', 'sounds', 'files'] },
  { path: '/cast', name: 'Cast', words: ['voices', 'speech', 'reading', 'word lists', 'blocked words'] },
  {
    path: '/rig',
    name: 'Rig',
    words: ['gear', 'broadcaster', 'lamps', 'house', 'cooldown', 'inlets', 'hooks', 'overlay'],
  },
  { path: '/ledger', name: 'Ledger', words: ['calls', 'refunds'] },
  { path: '/nights', name: 'Nights', words: ['streams', 'past'] },
  { path: '/viewers', name: 'Viewers', words: ['blocked', 'exempt', 'points', 'balances'] },
  { path: '/pads', name: 'Pads', words: ['phone', 'tablet', 'buttons'] },
  { path: '/phrases', name: 'Phrases', words: ['voice', 'microphone', 'speak', 'listening'] },
  { path: '/rehearse', name: 'Rehearse', words: ['audience', 'simulation'] },
  { path: '/books', name: 'History', words: ['export', 'import', 'backup', 'versions', 'restore'] },
  { path: '/snags', name: 'Snags', words: ['problems', 'errors', 'warnings'] },
  { path: '/opening', name: 'Opening night', words: ['setup', 'start'] },
]

/** The pages in the order of their labels. */
export const PAGES: PageEntry[] = [
  { path: '/desk', name: 'Desk' },
  { path: '/cues', name: 'Cues' },
  { path: '/rewards', name: 'Rewards' },
  { path: '/jars', name: 'Jars' },
  { path: '/media', name: 'Media' },
  { path: '/cast', name: 'Cast' },
  { path: '/rig', name: 'Rig' },
  { path: '/ledger', name: 'Ledger' },
  { path: '/pads', name: 'Pads' },
  { path: '/rehearse', name: 'Rehearse' },
]
