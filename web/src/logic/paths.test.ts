import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { expect, it, test } from 'vitest'
import { lastOf, pathOf, readPath } from './paths'
import said from './said.json'

test.each(said.paths as unknown as [[string, string[]], string][])(
  '%o is written %s',
  ([family, steps], path) => {
    expect(pathOf(family, ...steps)).toBe(path)
    expect(readPath(path)).toEqual({ family, steps })
  },
)

it('knows what of a thing it is', () => {
  expect([lastOf('light/signal/colour'), lastOf('broadcast/scene'), lastOf('odd')]).toEqual([
    'colour',
    'scene',
    'odd',
  ])
})

it('nobody else takes a path apart or puts it together', () => {
  const src = join(import.meta.dirname, '..')
  const spells =
    /path\.split\('\/'\)|`(broadcast|light|avatar|voice|haptics|things|keys|hook|reward)\/[^`]*\$\{/
  const files = readdirSync(src, { recursive: true, encoding: 'utf8' }).filter((name) =>
    /\.(ts|vue)$/.test(name),
  )
  const found = files.filter((name) => spells.test(readFileSync(join(src, name), 'utf8')))
  expect(found.filter((name) => !name.endsWith('paths.ts') && !name.endsWith('.test.ts'))).toEqual([])
})
