import { afterEach, expect, it } from 'vitest'
import { nextTick } from 'vue'
import { mounted, open, type, unmount } from './mounted'
import NumberField from './NumberField.vue'
import PickField from './PickField.vue'

afterEach(unmount)
const text = (root: HTMLElement): string | undefined => root.querySelector('input')?.value

it('a number is held between its ends', async () => {
  const { root, said } = await mounted(NumberField, 3, { least: 1, most: 8, whole: true })
  await type(root, '40')
  await type(root, '0')
  expect(said).toEqual([8, 1])
  expect(text(root)).toBe('1')
})

it('a number under a hand is not written over', async () => {
  const { root, said, model } = await mounted(NumberField, 359, { least: 0, most: 359 })
  const input = root.querySelector('input') as HTMLInputElement
  input.focus()
  input.select()
  model.value = 225
  await nextTick()
  expect(text(root)).toBe('359')
  input.blur()
  await nextTick()
  expect([said, text(root)]).toEqual([[], '225'])
  await type(root, '42')
  expect([said, text(root)]).toEqual([[42], '42'])
})

it('a number that is emptied goes back, unless it may be empty', async () => {
  const kept = await mounted(NumberField, 3, {})
  await type(kept.root, '')
  expect([kept.said, text(kept.root)]).toEqual([[], '3'])
  const free = await mounted(NumberField, 3, { optional: true })
  await type(free.root, '')
  expect(free.said).toEqual(['cleared'])
})

it('a number that was not taken goes back', async () => {
  const { root, said } = await mounted(NumberField, 3, {}, { takes: false })
  await type(root, '5')
  expect([said, text(root)]).toEqual([[5], '3'])
})

it('a narrow number has no buttons', async () => {
  const { root } = await mounted(NumberField, 3, { narrow: true })
  expect(root.querySelector('.el-input-number__increase')).toBeNull()
  const wide = await mounted(NumberField, 3, {})
  expect(wide.root.querySelector('.el-input-number__increase')).not.toBeNull()
})

const choices = (count: number): object[] =>
  Array.from({ length: count }, (_, i) => ({
    value: `v${i}`,
    name: `Poster ${i}`,
    picture: `/media/${i}.jpg`,
  }))

it('offers what there is, with pictures, and takes what is clicked', async () => {
  const { root, said } = await mounted(PickField, 'v1', { choices: choices(3) })
  expect(root.querySelector<HTMLImageElement>('.chosen-picture')?.getAttribute('src')).toBe('/media/1.jpg')
  const rows = await open(root)
  expect(rows.map((row) => row.textContent)).toEqual(['Poster 0', 'Poster 1', 'Poster 2'])
  rows[2]?.click()
  await nextTick()
  expect(said).toEqual(['v2'])
})

it('a choice that was not taken goes back', async () => {
  const { root } = await mounted(PickField, 'v1', { choices: choices(3) }, { takes: false })
  ;(await open(root))[0]?.click()
  await nextTick()
  await nextTick()
  expect(root.querySelector('.el-select__selected-item:not(.el-select__input-wrapper)')?.textContent).toBe(
    'Poster 1',
  )
})

it('a long list narrows as one types, a short one is only looked at', async () => {
  const short = await mounted(PickField, 'v1', { choices: choices(8) })
  expect(short.root.querySelector('input')?.readOnly).toBe(true)
  const long = await mounted(PickField, 'v1', { choices: choices(9) })
  expect(long.root.querySelector('input')?.readOnly).toBe(false)
})

it('within a popover its list stays within', async () => {
  const { root } = await mounted(PickField, 'v1', { choices: choices(3) }, { inside: 'el-popover' })
  await nextTick()
  await open(root)
  expect(root.querySelector('.el-popover .el-select-dropdown')).not.toBeNull()
})
