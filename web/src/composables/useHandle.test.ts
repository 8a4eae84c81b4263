import { describe, expect, it } from 'vitest'
import { byKey, useHandle } from './useHandle'

const at = (kind: string, x: number): PointerEvent =>
  new PointerEvent(kind, { clientX: x, pointerId: 1, bubbles: true })

function handle(): { node: HTMLElement; told: number[]; held: () => number | null } {
  const node = document.createElement('div')
  node.setPointerCapture = () => {}
  const told: number[] = []
  const { held, drag } = useHandle<number>((value) => told.push(value))
  node.addEventListener('pointerdown', (event) => drag(event, (moved) => moved.clientX))
  return { node, told, held: () => held.value }
}

describe('a handle', () => {
  it('shows where it would be, and tells it once it is let go', () => {
    const { node, told, held } = handle()
    node.dispatchEvent(at('pointerdown', 5))
    node.dispatchEvent(at('pointermove', 9))
    expect([held(), told]).toEqual([9, []])
    node.dispatchEvent(at('pointerup', 9))
    expect([held(), told]).toEqual([null, [9]])
    node.dispatchEvent(at('pointermove', 20))
    expect(held()).toBeNull()
  })
  it('changes nothing where the drag is broken off, or nothing moved', () => {
    const { node, told, held } = handle()
    node.dispatchEvent(at('pointerdown', 5))
    node.dispatchEvent(at('pointermove', 9))
    node.dispatchEvent(at('pointercancel', 9))
    node.dispatchEvent(at('pointerdown', 5))
    node.dispatchEvent(at('pointerup', 5))
    expect([held(), told]).toEqual([null, []])
  })
  it('keeps its keys from the page, and leaves others to it', () => {
    const done: string[] = []
    const press = (key: string): boolean => {
      const event = new KeyboardEvent('keydown', { key, cancelable: true })
      byKey(event, { ArrowLeft: () => done.push('left') })
      return event.defaultPrevented
    }
    expect([press('ArrowLeft'), press('Tab'), done]).toEqual([true, false, ['left']])
  })
})
