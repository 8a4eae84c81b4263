import { describe, expect, it } from 'vitest'
import { dayOf, grouped } from './review'

const row = (kind: string, id: string) =>
  ({ key: `${kind}/${id}`, kind, id, name: id, state: 'new', fields: [], takes: true }) as never

describe('a review', () => {
  it('has cues first, what they need after them, and the house last', () => {
    const rows = [
      row('house', ''),
      row('lanes', 'yard'),
      row('cues', 'tea'),
      row('media', 'bell'),
      row('cues', 'all'),
    ]
    expect(grouped(rows).map((group) => [group.title, group.rows.length])).toEqual([
      ['Cues', 2],
      ['Lanes', 1],
      ['Files', 1],
      ['The house', 1],
    ])
  })

  it('parts days by midnight, not by 24 hours', () => {
    const now = new Date(2026, 4, 8, 0, 30).getTime()
    expect(dayOf(new Date(2026, 4, 8, 0, 1).getTime(), now)).toBe('Today')
    expect(dayOf(new Date(2026, 4, 7, 23, 59).getTime(), now)).toBe('Yesterday')
    expect(dayOf(new Date(2026, 4, 5, 12).getTime(), now)).toBe('Tuesday')
    expect(dayOf(new Date(2026, 3, 28, 12).getTime(), now)).toBe('Tuesday, April 28')
  })
})
