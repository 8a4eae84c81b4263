const COLOURS = [
  '--sage',
  '--straw',
  '--rose',
  '--slate',
  '--amber',
  '--lilac',
  '--teal',
  '--brick',
  '--sand',
  '--plum',
]

/** The colour of a jar's layer, by its position; the same in the jar and in its odds. */
export function layerColour(index: number): string {
  return `var(${COLOURS[index % COLOURS.length]})`
}
