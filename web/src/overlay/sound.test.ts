import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { Sound, takePlayer } from './sound'
import type { Look, ShowMessage, Source } from './types'

const SOURCE = {
  url: '/media/whistle.ogg',
  from_s: 0,
  to_s: null,
  length_s: 2,
  gain_db: 0,
} as unknown as Source
let sounds: Sound[] = []

/** A player that has loaded, as no browser loads it here. */
function player(kind: 'audio' | 'video' = 'audio'): HTMLMediaElement {
  const media = takePlayer(kind)
  Object.defineProperty(media, 'readyState', { value: 1, configurable: true })
  media.play = () => Promise.resolve()
  media.pause = () => {}
  media.load = () => {}
  return media
}

function heard(
  look: Partial<Look>,
  more: { until?: number; source?: Partial<Source>; others?: number } = {},
): Sound {
  const message = { at: 0, until: more.until ?? null } as ShowMessage
  const source = { ...SOURCE, ...more.source }
  const made = new Sound(player(), look as Look, message, source, Date.now, more.others ?? 1)
  sounds.push(made)
  return made
}

beforeEach(() => {
  vi.useFakeTimers({ now: 0 })
  sounds = []
})
afterEach(() => {
  for (const sound of sounds) sound.stop()
  vi.useRealTimers()
})

it('joins in the middle, and of a loop where it would be by now', () => {
  vi.setSystemTime(500)
  const first = heard({})
  first.start()
  expect(first.media.currentTime).toBeCloseTo(0.5)

  vi.setSystemTime(5_300)
  const looped = heard({}, { source: { from_s: 0.5, to_s: 1.5 } })
  looped.start()
  expect(looped.media.currentTime).toBeCloseTo(0.5 + 0.3)
})

it('goes round between its trimmed ends', () => {
  const sound = heard({}, { source: { from_s: 0.5, to_s: 1.5 } })
  sound.media.currentTime = 1.6
  vi.advanceTimersByTime(50)
  expect(sound.media.currentTime).toBe(0.5)
})

it('is as loud as it is set and levelled, and rises and falls', () => {
  expect(heard({ volume: 50 }, { source: { gain_db: -6 } }).media.volume).toBeCloseTo(0.5 * 10 ** (-6 / 20))
  const faded = heard({ fade_in_s: 1, fade_out_s: 2 }, { until: 10_000 })
  expect(faded.media.volume).toBe(0)
  vi.advanceTimersByTime(480)
  expect(faded.media.volume).toBeCloseTo(0.48, 1)
  vi.advanceTimersByTime(4_000)
  expect(faded.media.volume).toBe(1)
  vi.setSystemTime(9_000)
  vi.advanceTimersByTime(40)
  expect(faded.media.volume).toBeCloseTo(0.48, 1)
})

it('is softer while another ducks it; the one that ducks is not', () => {
  const music = heard({}, { others: 0.25 })
  const voice = heard({ duck: 0.25 }, { others: 0.25 })
  expect([music.media.volume, voice.media.volume]).toEqual([0.25, 1])
  music.setOthers(1)
  expect(music.media.volume).toBe(1)
})

it('gives its player back clean, and the next takes it', () => {
  const sound = heard({ volume: 10 })
  sound.media.dataset.beat = 'whistle'
  sound.media.muted = true
  sound.stop()
  const again = takePlayer('audio')
  expect(again).toBe(sound.media)
  expect(again.getAttributeNames()).toEqual([])
  expect(again.muted).toBe(false)
})

it('does not begin once it was stopped before it had loaded', () => {
  const media = takePlayer('audio')
  Object.defineProperty(media, 'readyState', { value: 0, configurable: true })
  media.play = vi.fn(() => Promise.resolve())
  media.pause = () => {}
  media.load = () => {}
  const sound = new Sound(media, {} as Look, { at: 0, until: null } as ShowMessage, SOURCE, Date.now, 1)
  sound.start()
  sound.stop()
  media.dispatchEvent(new Event('loadedmetadata'))
  expect(media.play).not.toHaveBeenCalled()
})
