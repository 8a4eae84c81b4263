// @vitest-environment node
/** The formats and wires, read by other people's programs. */
import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { Parser } from '@asyncapi/parser'
import { Spectral } from '@stoplight/spectral-core'
import { oas } from '@stoplight/spectral-rulesets'
import Ajv2020 from 'ajv/dist/2020.js'
import addFormats from 'ajv-formats'
import { describe, expect, it } from 'vitest'

const DOCS = join(import.meta.dirname, '../../docs/reference')
const read = (folder: string, name: string): string => readFileSync(join(DOCS, folder, name), 'utf8')
const named = (folder: string, ending: string): string[] =>
  readdirSync(join(DOCS, folder)).filter((name) => name.endsWith(ending))

function strict(): Ajv2020 {
  const ajv = new Ajv2020({ strict: true, strictTypes: false, strictRequired: false, allErrors: true })
  addFormats(ajv)
  return ajv
}

describe('the JSON Schemas', () => {
  it.each([
    ...named('formats', '.schema.json').map((name) => ['formats', name]),
    ...named('wires', '.schema.json').map((name) => ['wires', name]),
  ])('%s/%s holds together, strictly', (folder, name) => {
    expect(strict().compile(JSON.parse(read(folder ?? '', name ?? '')) as object)).toBeTypeOf('function')
  })

  it.each(named('examples', '.script.json'))('take the night %s and its book', (name) => {
    const night = JSON.parse(read('examples', name)) as { book: unknown; happenings: { at: number }[] }
    const script = strict().compile(JSON.parse(read('formats', 'script.schema.json')) as object)
    expect(script(night), JSON.stringify(script.errors)).toBe(true)
    const book = strict().compile(JSON.parse(read('formats', 'book.schema.json')) as object)
    expect(book(night.book), JSON.stringify(book.errors)).toBe(true)
    expect(book({ ...(night.book as object), lanes: [{ id: 'A lane' }] })).toBe(false)
  })
})

describe('the wires', () => {
  it.each(named('wires', '.asyncapi.json'))('%s is AsyncAPI', async (name) => {
    const { document, diagnostics } = await new Parser().parse(read('wires', name))
    expect(diagnostics.filter((one) => one.severity === 0)).toEqual([])
    expect(document?.operations().length).toBeGreaterThan(0)
  })
})

describe('the OpenAPI', () => {
  /** WebSocket messages are included so that clients have their types; no address names them. */
  const MESSAGES = [
    'DeskMessage',
    'OverlayMessage',
    'PadsMessage',
    'PadsSaid',
    'PadsWish',
    'ShowTold',
    'SpeechTold',
  ]

  it.each(['../.stamps/openapi.json', '../docs/reference/wires/channel.openapi.json'])(
    '%s has nothing to mend',
    async (name) => {
      const linter = new Spectral()
      // There is no contact person, and a summary is enough for a short operation.
      linter.setRuleset({
        extends: [[oas as never, 'recommended']],
        rules: { 'info-contact': 'off', 'operation-description': 'off' },
      })
      const found = await linter.run(readFileSync(join(import.meta.dirname, '..', name), 'utf8'))
      const told = found.map((one) => `${one.code} ${one.path.join('/')}: ${one.message}`)
      expect(
        told.filter(
          (one) =>
            !MESSAGES.some((message) =>
              one.startsWith(`oas3-unused-component components/schemas/${message}:`),
            ),
        ),
      ).toEqual([])
    },
    120_000,
  )
})
