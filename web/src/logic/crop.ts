/** A square cut out of a picture; as `core/measures/crop.py`. */
export interface Crop {
  /** Its middle, as shares of width and height. */
  x: number
  y: number
  /** By how much it is smaller than the largest square. */
  zoom: number
}

interface Size {
  width: number
  height: number
}

const within = (value: number, most: number): number => Math.min(Math.max(0, value), most)

export function squareOf(size: Size, crop: Crop): { left: number; top: number; side: number } {
  const side = Math.min(size.width, size.height) / Math.max(1, crop.zoom)
  return {
    left: within(crop.x * size.width - side / 2, size.width - side),
    top: within(crop.y * size.height - side / 2, size.height - side),
    side,
  }
}

/** The crop moved by shares of the picture, as far as its edges. */
export function moved(size: Size, crop: Crop, by: { x: number; y: number }): Crop {
  const { left, top, side } = squareOf(size, crop)
  const x = within(left + by.x * size.width, size.width - side)
  const y = within(top + by.y * size.height, size.height - side)
  const share = (value: number): number => Math.round(value * 1000) / 1000
  return { x: share((x + side / 2) / size.width), y: share((y + side / 2) / size.height), zoom: crop.zoom }
}
