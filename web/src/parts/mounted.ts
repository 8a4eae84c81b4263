/** For tests: a component on a page, with everything it says. */
import { createPinia, setActivePinia } from 'pinia'
import { createApp, defineComponent, h, nextTick, ref, type App, type Component, type Ref } from 'vue'

interface Mounted {
  root: HTMLElement
  /** Its events in order, by their names: a model's is its new value alone. */
  said: unknown[]
  model: Ref<unknown>
}
let app: App | undefined

export function unmount(): void {
  app?.unmount()
  app = undefined
}

/**
 * `takes`: whether the page accepts a new value of the model. `inside`: the class of what is around it. `hears`: other
 * events to note, each as its name and what came with it.
 */
export async function mounted(
  component: Component,
  value: unknown,
  props: object,
  { takes = true, inside = '', hears = [] as string[] } = {},
): Promise<Mounted> {
  unmount()
  setActivePinia(createPinia())
  const model = ref(value)
  const said: unknown[] = []
  const root = document.createElement('div')
  const over = document.createElement('div')
  over.id = 'over'
  document.body.replaceChildren(root, over)
  const heard = Object.fromEntries(
    hears.map((name) => [
      `on${name.charAt(0).toUpperCase()}${name.slice(1)}`,
      (...what: unknown[]) => said.push([name, ...what]),
    ]),
  )
  const page = defineComponent(() => () => {
    const node = h(component, {
      ...props,
      ...heard,
      modelValue: model.value,
      'onUpdate:modelValue': (next: unknown) => {
        said.push(next)
        if (takes) model.value = next
      },
      onClear: () => said.push('cleared'),
    })
    return inside ? h('div', { class: inside }, node) : node
  })
  app = createApp(page)
  app.mount(root)
  await nextTick()
  return { root, said, model }
}

export async function type(root: HTMLElement, text: string, css = 'input'): Promise<void> {
  const input = root.querySelector(css) as HTMLInputElement
  input.value = text
  input.dispatchEvent(new Event('input'))
  input.dispatchEvent(new Event('change'))
  await nextTick()
  await nextTick()
}

export async function press(root: HTMLElement, css: string): Promise<void> {
  root.querySelector<HTMLElement>(css)?.click()
  await nextTick()
  await nextTick()
}

/** Opens a list, and returns its rows. */
export async function open(root: HTMLElement, css = '.el-select__wrapper'): Promise<HTMLElement[]> {
  await press(root, css)
  return [...document.querySelectorAll<HTMLElement>('.el-select-dropdown__item')]
}

export const texts = (root: HTMLElement, css: string): string[] =>
  [...root.querySelectorAll(css)].map((node) => (node.textContent ?? '').replace(/\s+/g, ' ').trim())
