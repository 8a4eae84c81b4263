import { effectScope } from 'vue'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { usePress } from './usePress'

const pad = { holds: false, open: false, disabled: false }
let did: string[] = []
let now = 0

function press(): ReturnType<typeof usePress> {
  return effectScope().run(() =>
    usePress(
      () => pad,
      () => did.push('press'),
      () => did.push('let go'),
    ),
  ) as ReturnType<typeof usePress>
}

beforeEach(() => {
  did = []
  now = 0
  Object.assign(pad, { holds: false, open: false, disabled: false })
  vi.spyOn(performance, 'now').mockImplementation(() => now)
})

describe('pressing a pad', () => {
  it('fires when it goes down, once, however long it is held', () => {
    const { onDown, onUp, onClick } = press()
    onDown()
    onDown()
    now = 900
    onUp()
    onClick()
    expect(did).toEqual(['press'])
  })

  it('holds what can be held until it is let go', () => {
    pad.holds = true
    const { onDown, onUp } = press()
    onDown()
    now = 400
    onUp()
    expect(did).toEqual(['press', 'let go'])
  })

  it('leaves it on after a tap; the next tap lets it go, however long', () => {
    pad.holds = true
    const { onDown, onUp } = press()
    onDown()
    now = 100
    onUp()
    pad.open = true
    onDown()
    now = 900
    onUp()
    expect(did).toEqual(['press', 'let go'])
  })

  it('hears a click that no finger began, and nothing while it is off', () => {
    const { onDown, onClick } = press()
    onClick()
    onClick()
    expect(did).toEqual(['press', 'press'])
    pad.disabled = true
    onDown()
    onClick()
    expect(did).toHaveLength(2)
  })
})
