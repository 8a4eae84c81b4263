/** Audiences of rehearsals. */
import { at, ID, INSIDE, type Controls } from './control'

const audience = at('pages/rehearse/AudiencePanel.vue')
const curve = at('pages/rehearse/AudienceCurve.vue')
const marks = at('pages/rehearse/CurveMarks.vue')
const happens = at('pages/rehearse/ElseHappens.vue')

export const REHEARSAL = {
  Audience: {
    id: ID,
    name: audience,
    viewers: audience,
    followers: audience,
    members: audience,
    length_min: audience,
    calls: audience,
    curve: audience,
    likes: audience,
    shares: audience,
    manners: INSIDE,
    raids: happens,
    hands: happens,
    outages: happens,
    seed: audience,
  },
  CurvePoint: { at_min: curve, level: curve },
  Manners: { patient: audience, keen: audience, spammer: audience, nonsense: audience },
  RaidAt: { at_min: marks, viewers: happens },
  HandAt: { at_min: marks, path: happens, value: happens },
  Outage: { at_min: marks, for_min: marks, gear: happens },
} satisfies Partial<Controls>
