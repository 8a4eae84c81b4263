/** The pages that hang as labels from the bar. */
interface PageEntry {
  path: string
  name: string
}

/** The pages in the order in which their labels hang. */
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
