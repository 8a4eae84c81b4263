import { expect, it } from 'vitest'
import { filledFor } from './templates'

it.each([
  ['{{viewer}} says: {{text}}', 'hopper_kit says: mind the gap'],
  ['{{ viewer }} and {{{text}}} and {{&text}}', 'hopper_kit and mind the gap and mind the gap'],
  ['{{count_all}} of {{viewer}}', '{{count_all}} of hopper_kit'],
  ['no template', 'no template'],
])('%s', (template, wanted) =>
  expect(filledFor(template, { name: 'hopper_kit', text: 'mind the gap' })).toBe(wanted),
)

it('says that a text would stand there', () =>
  expect(filledFor('“{{text}}”', { name: 'hopper_kit', text: '' })).toBe('“…”'))
