/** What a call can do in its lane. */
import type { Cue } from '@/api/client'
import { ENTRY_NAMES } from '@/api/kinds'

const WHAT: Record<Cue['entry'], string> = {
  queue: 'Runs when the lane has room.',
  overlap: 'Runs beside everything else and takes no room in the lane.',
  solo: 'Waits until the lane is empty. Nothing else starts while it runs.',
  replace: 'A new call ends this cue’s current run.',
  extend: 'A call during a run makes it last longer.',
  refuse: 'Refused while this cue runs or waits.',
}

export const ENTRIES = (Object.keys(WHAT) as Cue['entry'][]).map((id) => ({
  id,
  name: ENTRY_NAMES[id],
  what: WHAT[id],
}))
