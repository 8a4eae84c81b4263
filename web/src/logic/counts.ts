/** What raises a count by itself, in words. */
import type { Schemas } from '@/api/client'

export type Feed = Schemas['Feed']

export const FEEDS: Record<Feed['by'], string> = {
  redemptions: 'each redemption',
  points: 'each point spent',
  tips: 'each tip',
  tipped: 'the amount tipped',
  members: 'each member',
  follows: 'each follow',
  raiders: 'each viewer of a raid',
}
