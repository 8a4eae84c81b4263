import { effectScope } from 'vue'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { readMidi, useMidi, type Does, type Midi } from './midi'

describe('a MIDI message', () => {
  it.each([
    [[0x90, 36, 100], { key: 'note 36, channel 1', down: true, value: 100 / 127 }],
    [[0x93, 36, 0], { key: 'note 36, channel 4', down: false, value: 0 }],
    [[0x80, 36, 64], { key: 'note 36, channel 1', down: false, value: 64 / 127 }],
    [[0xb0, 7, 127], { key: 'control 7, channel 1', down: true, value: 1 }],
    [[0xf8], null],
    [[], null],
  ])('%j', (data, meant) => expect(readMidi(data)).toEqual(meant))
})

interface Input {
  name: string
  state: string
  onmidimessage: ((event: { data: number[] }) => void) | null
}

describe('a MIDI device', () => {
  const input: Input = { name: 'Signal levers', state: 'connected', onmidimessage: null }
  const access = { inputs: new Map([['a', input]]), onstatechange: null as (() => void) | null }
  const done: [Does, boolean][] = []
  let midi: Midi

  beforeEach(async () => {
    localStorage.clear()
    done.length = 0
    input.state = 'connected'
    vi.stubGlobal('navigator', Object.assign(navigator, { requestMIDIAccess: () => Promise.resolve(access) }))
    midi = effectScope().run(() => useMidi((does, heard) => done.push([does, heard.down]))) as Midi
    await midi.begin()
  })

  const press = (...data: number[]): void => input.onmidimessage?.({ data })

  it('does what was learned by pressing, and nothing before', () => {
    press(0x90, 36, 90)
    expect(done).toEqual([])
    midi.learning.value = { pad: 'bell' }
    press(0x80, 40, 0)
    expect(midi.learning.value).not.toBeNull()
    press(0x90, 36, 90)
    expect(done).toEqual([])
    expect(midi.learning.value).toBeNull()
    press(0x90, 36, 90)
    press(0x90, 36, 0)
    expect(done).toEqual([
      [{ pad: 'bell' }, true],
      [{ pad: 'bell' }, false],
    ])
    midi.forget('note 36, channel 1')
    press(0x90, 36, 90)
    expect(done).toHaveLength(2)
  })

  it('is said when it goes away, and when it is back', () => {
    expect(midi.names.value).toEqual(['Signal levers'])
    expect(midi.problem.value).toBe('')
    input.state = 'disconnected'
    access.onstatechange?.()
    expect(midi.problem.value).toBe('Signal levers is gone.')
    input.state = 'connected'
    access.onstatechange?.()
    expect(midi.problem.value).toBe('')
  })
})
