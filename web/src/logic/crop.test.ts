import { describe, expect, it } from 'vitest'
import { moved, squareOf } from './crop'

const wide = { width: 400, height: 200 }
const middle = { x: 0.5, y: 0.5, zoom: 1 }

describe('the square cut out of a picture', () => {
  it('is as large as the picture allows, and smaller by the zoom', () => {
    expect(squareOf(wide, middle)).toEqual({ left: 100, top: 0, side: 200 })
    expect(squareOf(wide, { ...middle, zoom: 4 })).toEqual({ left: 175, top: 75, side: 50 })
  })

  it('stays within the picture', () => {
    expect(squareOf(wide, { x: 1, y: 0, zoom: 2 })).toEqual({ left: 300, top: 0, side: 100 })
  })

  it('moves as far as the edge, and back at once', () => {
    const right = moved(wide, middle, { x: 9, y: 9 })
    expect(right).toEqual({ x: 0.75, y: 0.5, zoom: 1 })
    expect(moved(wide, right, { x: -0.25, y: 0 })).toEqual(middle)
    // One that was dragged beyond the edge begins at the edge.
    expect(moved(wide, { x: 1, y: 0.5, zoom: 1 }, { x: -0.05, y: 0 })).toEqual({ x: 0.7, y: 0.5, zoom: 1 })
  })
})
