/** The guide and the reference, rendered with the app; and which page belongs to which path. */
import MiniSearch from 'minisearch'

export interface GuidePage {
  /** `guide/cues`. */
  id: string
  title: string
  html: string
  sections: { anchor: string; heading: string; text: string }[]
}

export interface Hit {
  page: string
  anchor: string
  title: string
  heading: string
}

const GUIDE = import.meta.glob<GuidePage>('../../../docs/guide/*.md', { eager: true, import: 'default' })
const REFERENCE = import.meta.glob<GuidePage>(
  [
    '../../../docs/reference/*.md',
    '../../../docs/reference/wires/*.md',
    '../../../docs/reference/examples/*.md',
  ],
  { eager: true, import: 'default' },
)

/** In the order in which a new streamer needs them. */
const ORDER = ['first-night', 'cues', 'rewards', 'reading-aloud', 'gear', 'pads', 'safety', 'rehearsing']
const rank = (page: GuidePage): number => (ORDER.indexOf(page.id.replace('guide/', '')) + 99) % 99

export const pages: GuidePage[] = [
  ...Object.values(GUIDE).sort((a, b) => rank(a) - rank(b)),
  ...Object.values(REFERENCE),
]

export function pageOf(id: string): GuidePage | undefined {
  return pages.find((page) => page.id === id || page.id === `${id}/README`)
}

/** Which page belongs to which path of the app; the longest prefix counts. */
const BELONGS: Record<string, string> = {
  '/': 'first-night',
  '/cues': 'cues',
  '/lanes': 'cues',
  '/counts': 'cues',
  '/jars': 'cues',
  '/media': 'cues',
  '/rewards': 'rewards',
  '/viewers': 'safety',
  '/cast': 'reading-aloud',
  '/rig': 'gear',
  '/pads': 'pads',
  '/phrases': 'pads',
  '/rehearse': 'rehearsing',
  '/nights': 'rehearsing',
  '/books': 'moving-house',
  '/import': 'moving-house',
  '/ledger': 'trouble',
  '/snags': 'trouble',
}

export function belongsTo(path: string): string {
  const [found] = Object.keys(BELONGS)
    .filter((start) => path.startsWith(start))
    .sort((a, b) => b.length - a.length)
  return `guide/${BELONGS[found ?? '/']}`
}

const index = new MiniSearch<Hit & { id: number; text: string }>({
  fields: ['heading', 'title', 'text'],
  storeFields: ['page', 'anchor', 'title', 'heading'],
  searchOptions: { prefix: true, fuzzy: 0.25, combineWith: 'AND', boost: { heading: 3, title: 2 } },
})
index.addAll(
  pages
    .flatMap((page) => page.sections.map((one) => ({ ...one, page: page.id, title: page.title })))
    .map((row, id) => ({ ...row, id })),
)

/** The sections that contain all these words, the guide's first. */
export function searched(text: string): Hit[] {
  const hits = index.search(text) as unknown as (Hit & { score: number })[]
  const inGuide = (hit: Hit): number => (hit.page.startsWith('guide/') ? 0 : 1)
  return hits.sort((a, b) => inGuide(a) - inGuide(b) || b.score - a.score).slice(0, 12)
}
