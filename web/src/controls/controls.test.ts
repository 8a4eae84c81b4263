import { existsSync, readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { CONTROLS, type Control } from '.'

const rows = Object.entries(CONTROLS).flatMap(([model, fields]) =>
  Object.entries(fields as Record<string, Control>).map(([field, control]) => ({ model, field, control })),
)

describe('every field of the book has its control, or a reason why a person never should', () => {
  it.each(rows)('$model.$field', ({ field, control }) => {
    if ('never' in control) {
      expect(control.never.length).toBeGreaterThan(10)
      return
    }
    const file = `src/${control.at}`
    expect(existsSync(file), file).toBe(true)
    // The component names the field when it reads or sets it.
    expect(readFileSync(file, 'utf8')).toMatch(new RegExp(`\\b${field}\\b`))
  })
})
