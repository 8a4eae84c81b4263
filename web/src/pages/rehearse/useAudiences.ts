/** The audiences of the book: drawn here, saved while they are drawn, each an edit that can be undone. */
import { computed, type Ref } from 'vue'
import { useBook } from '@/composables/useBook'
import { attempt } from '@/composables/useSay'
import { idOf } from '@/logic/ids'
import type { Audience } from '@/logic/nights'

export function useAudiences(chosen: Ref<string>) {
  const book = useBook()
  const audiences = computed(() => (book.book?.audiences ?? []) as Audience[])
  const audience = computed(() => audiences.value.find((one) => one.id === chosen.value) ?? null)

  async function put(value: Audience): Promise<void> {
    await attempt(() => book.put('audiences', value as unknown as { id: string } & Record<string, unknown>))
  }
  async function change(fields: Partial<Audience>): Promise<void> {
    if (audience.value) await put({ ...audience.value, ...fields })
  }
  /** A new one, or a copy of the chosen one. */
  async function add(name: string, like: Audience | null = null): Promise<void> {
    const taken = audiences.value.map((one) => one.id)
    const id = idOf(name, taken)
    await put({ ...(like ?? ({} as Audience)), id, name })
    chosen.value = id
  }
  async function remove(): Promise<void> {
    const id = chosen.value
    await attempt(() => book.remove('audiences', id))
    chosen.value = audiences.value.find((one) => one.id !== id)?.id ?? ''
  }
  return { audiences, audience, change, add, remove }
}
