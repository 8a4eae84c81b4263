import { expect, it } from 'vitest'
import { ROOMS } from '@/labels'
import { belongsTo, pageOf, pages, searched } from './pages'

it('every page of the app has its page of the guide', () => {
  for (const room of ROOMS) expect(pageOf(belongsTo(room.path)), room.path).toBeDefined()
  expect(belongsTo('/cues/steam-whistle')).toBe('guide/cues')
  expect(belongsTo('/nowhere')).toBe('guide/first-night')
})

it('all links and pictures of the pages lead somewhere', () => {
  for (const page of pages) {
    for (const [, id, anchor] of page.html.matchAll(/data-page="([^"]*)" data-anchor="([^"]*)"/g)) {
      const target = pageOf(id ?? '')
      expect(target, `${page.id} → ${id}`).toBeDefined()
      if (anchor)
        expect(
          target?.sections.map((one) => one.anchor),
          `${page.id} → ${id}`,
        ).toContain(anchor)
    }
    expect(page.html).not.toMatch(/@@\d|src=""|href="[^#]/)
    expect(page.title, page.id).not.toBe(page.id)
  }
})

it('the search finds sections, the guide’s first, also with a slip', () => {
  expect(searched('quiet spell')[0]).toMatchObject({ page: 'guide/safety', heading: 'Quiet spell' })
  expect(searched('resting lok')[0]?.page).toBe('guide/gear')
  expect(searched('zzzz')).toEqual([])
})
