import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { OverlayStage } from './stage'
import type { ShowMessage } from './types'

let root: HTMLElement
let stage: OverlayStage

function words(beat: string, until: number | null, more: Partial<ShowMessage> = {}): ShowMessage {
  const look = { enter: 'none', leave: 'none', fade_in_s: 0, fade_out_s: 0 } as ShowMessage['look']
  return { t: 'show', run: '1', beat, kind: 'caption', value: 'mind the gap', at: 0, until, look, ...more }
}
const up = (): string[] => [...root.children].map((node) => (node as HTMLElement).dataset.beat ?? '')

beforeEach(() => {
  vi.useFakeTimers({ now: 0 })
  root = document.createElement('div')
  document.body.replaceChildren(root)
  stage = new OverlayStage(root, { sound: true, picture: true, now: Date.now })
})
afterEach(() => {
  stage.clear()
  vi.useRealTimers()
})

describe('what is up', () => {
  it('goes at its end even if nobody says so', () => {
    stage.show(words('a', 3000))
    vi.advanceTimersByTime(2999)
    expect(up()).toEqual(['a'])
    vi.advanceTimersByTime(500)
    expect(up()).toEqual([])
  })

  it('goes when it is told, and another end counts from when it is told', () => {
    stage.show(words('a', 3000))
    stage.show(words('b', null))
    stage.setUntil('1', 'a', 9000)
    stage.setUntil('1', 'b', 5000)
    vi.advanceTimersByTime(4000)
    expect(up()).toEqual(['a', 'b'])
    vi.advanceTimersByTime(1500)
    expect(up()).toEqual(['a'])
    stage.hide('1', 'a')
    vi.advanceTimersByTime(500)
    expect(stage.count).toBe(0)
  })

  it('is shown once however often it is told, and not at all when it is over', () => {
    stage.show(words('a', 3000))
    stage.show(words('a', 6000))
    stage.show(words('late', -1))
    expect(up()).toEqual(['a'])
    vi.advanceTimersByTime(4000)
    expect(up(), 'the later end counts').toEqual(['a'])
  })

  it('becomes what a whole says: the rest goes, what was missed comes', () => {
    stage.show(words('a', null))
    stage.show(words('b', null))
    stage.whole([words('b', null), words('c', 2000)])
    expect(up()).toEqual(['b', 'c'])
    vi.advanceTimersByTime(2500)
    expect(up()).toEqual(['b'])
  })

  it('can be as far away as a timer cannot count', () => {
    stage.show(words('a', 3e9))
    vi.advanceTimersByTime(10_000)
    expect(up()).toEqual(['a'])
  })
})

it('lies where its place is, over what has a lower layer', () => {
  const place = { x: 0.25, y: 0.5, w: 0.5, h: 0.125 }
  stage.show(words('a', null, { look: { place, layer: 3, opacity: 0.5, flip: true } as ShowMessage['look'] }))
  const style = (root.firstElementChild as HTMLElement).style
  expect([style.left, style.top, style.width, style.height]).toEqual(['25%', '50%', '50%', '12.5%'])
  expect([style.zIndex, style.opacity, style.transform]).toEqual(['4', '0.5', 'scaleX(-1)'])
})

it('shows texts as texts', () => {
  stage.show(words('a', null, { value: '<b>mind</b> the gap' }))
  expect(root.querySelector('b')).toBeNull()
  expect(root.textContent).toBe('<b>mind</b> the gap')
})

it('hides what is seen when it may only be heard', () => {
  stage.show(words('a', null))
  stage.setOutputs(true, false)
  expect(stage.count).toBe(0)
  stage.show(words('b', null))
  expect(stage.count).toBe(0)
  stage.setOutputs(true, true)
  stage.show(words('b', null))
  expect(up()).toEqual(['b'])
})

it('learns the words of a speech that is heard already, and goes at its true end', async () => {
  const source = { url: '/speech/a.wav', kind: 'sound', mime: 'audio/wav', length_s: 5, loops: 1, from_s: 0 }
  const told = (length_s: number, word: string[], until: number): ShowMessage =>
    words('a', until, {
      kind: 'speech',
      media: [{ ...source, length_s, to_s: null, gain_db: 0 }] as ShowMessage['media'],
      speech: { words: word.map((text) => [text, 0, 400, 'Clerk']), mouth: [], pictures: [], blink: null },
    })
  stage.show(told(5, [], 5000))
  await vi.dynamicImportSettled()
  await vi.advanceTimersByTimeAsync(50)
  const caption = root.querySelector<HTMLElement>('[data-part=caption]')
  const plate = caption?.firstElementChild as HTMLElement
  expect([caption?.textContent, plate.style.visibility]).toEqual(['', 'hidden'])
  const plays = root.querySelector('audio')
  stage.show(told(3, ['mind', 'the'], 3000))
  await vi.advanceTimersByTimeAsync(50)
  expect([caption?.textContent, plate.style.visibility]).toEqual(['mind the ', 'visible'])
  expect(root.querySelector('audio'), 'nothing begins anew').toBe(plays)
  await vi.advanceTimersByTimeAsync(3200)
  expect(stage.count).toBe(0)
})
