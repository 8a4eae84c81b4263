import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { playSpeech } from './speech'
import type { ShowMessage, SpeechInfo } from './types'

let node: HTMLElement
let stop: () => void = () => {}

const WORDS: SpeechInfo['words'] = [
  ['mind', 0, 200, 'Clerk'],
  ['the', 200, 300, 'Clerk'],
  ['gap', 300, 600, 'Clerk'],
  ['tickets', 1200, 1500, 'Marlow'],
  ['please', 1500, 1900, 'Marlow'],
]

function speak(speech: Partial<SpeechInfo>, look: Record<string, unknown> = {}): void {
  const told = { words: WORDS, mouth: [], pictures: [], blink: null, ...speech }
  const message = { at: 0, until: null, look, speech: told } as unknown as ShowMessage
  stop = playSpeech(node, message, Date.now)
}
const caption = (): string => node.querySelector('[data-part=caption]')?.textContent?.trim() ?? ''
const saidNow = (): string => node.querySelector('[data-said=now]')?.textContent?.trim() ?? ''
const shown = (): string | undefined => node.querySelector<HTMLElement>('[data-part=mouth]')?.dataset.shown

beforeEach(() => {
  vi.useFakeTimers({ now: 0 })
  node = document.createElement('div')
})
afterEach(() => {
  stop()
  vi.useRealTimers()
})

it('shows the words of one breath with their speaker, and marks the one that is said', () => {
  speak({})
  vi.advanceTimersByTime(250)
  expect([caption(), saidNow()]).toEqual(['Clerk: mind the gap', 'the'])
  vi.advanceTimersByTime(1100)
  expect([caption(), saidNow()]).toEqual(['Marlow: tickets please', 'tickets'])
})

it('names nobody where one alone speaks, and breaks a long line', () => {
  const words = Array.from({ length: 10 }, (_, i) => [`w${i}`, i * 100, i * 100 + 90, 'Clerk'] as const)
  speak({ words: words as unknown as SpeechInfo['words'] })
  vi.advanceTimersByTime(20)
  expect(caption()).toBe('w0 w1 w2 w3 w4 w5 w6 w7')
  vi.advanceTimersByTime(850)
  expect(caption()).toBe('w8 w9')
})

it('a viewer’s markup is text', () => {
  speak({ words: [['<b>mind</b>', 0, 100, 'Clerk']] })
  expect(node.querySelector('[data-part=caption] b')).toBeNull()
  expect(caption()).toBe('<b>mind</b>')
})

it('moves the mouth with the sound, and blinks only while it is closed', () => {
  speak(
    {
      mouth: [
        [0, 0],
        [200, 2],
        [1200, 0],
      ],
      pictures: ['/a', '/b', '/c'],
      blink: '/d',
    },
    { mouth: true },
  )
  vi.advanceTimersByTime(100)
  expect(shown()).toBe('0')
  vi.advanceTimersByTime(800)
  expect(shown(), 'open at 900 ms, where it would have blinked').toBe('2')
  let blinked = false
  for (let n = 0; n < 300; n += 1) {
    vi.advanceTimersByTime(20)
    blinked ||= shown() === '3'
  }
  expect(blinked).toBe(true)
  const seen = [...node.querySelectorAll<HTMLElement>('[data-part=mouth] img')].filter(
    (one) => one.style.visibility === 'visible',
  )
  expect(seen.length).toBe(1)
})

it('follows the clock of the sound where it plays', () => {
  const audio = document.createElement('audio')
  Object.defineProperty(audio, 'paused', { value: false })
  node.append(audio)
  speak({})
  audio.currentTime = 1.3
  vi.advanceTimersByTime(20)
  expect(saidNow()).toBe('tickets')
})

it('waits for a sound that is still being loaded, but not for one that may not play or never comes', () => {
  const audio = document.createElement('audio')
  let playing = false
  Object.defineProperty(audio, 'paused', { get: () => !playing })
  node.append(audio)
  speak({})
  vi.advanceTimersByTime(400)
  expect(saidNow(), 'nothing runs ahead of what is heard').toBe('mind')
  playing = true
  audio.currentTime = 0.25
  vi.advanceTimersByTime(20)
  expect(saidNow()).toBe('the')
  stop()

  for (const [ready, at] of [
    [() => (audio.dataset.blocked = 'yes'), 400],
    [() => delete audio.dataset.blocked, 2600],
  ] as const) {
    node.querySelector('[data-part=caption]')?.remove()
    playing = false
    audio.currentTime = 0
    ready()
    vi.setSystemTime(0)
    speak({
      words: [
        ['mind', 0, 300, 'Clerk'],
        ['the', 300, 2500, 'Clerk'],
        ['gap', 2500, 2900, 'Clerk'],
      ],
    })
    vi.advanceTimersByTime(at)
    expect(saidNow()).toBe(at === 400 ? 'the' : 'gap')
    stop()
  }
})

it('shows nothing where no caption is wanted or nothing is told', () => {
  speak({}, { caption: false })
  expect(node.children.length).toBe(0)
  expect(playSpeech(node, { look: {} } as ShowMessage, Date.now)()).toBeUndefined()
})
