/** Takes what changed in the book and its media: the rest stays as it is, and isn't drawn again. */
import type { Book, Media } from '@/api/client'
import type { components } from '@/api/schema'

export type Since = components['schemas']['Since']
type Rows = { id: string }[]

function rows(before: Rows, fresh: Rows, order: string[] | undefined): Rows {
  const byId = new Map([...before, ...fresh].map((row) => [row.id, row]))
  return (order ?? before.map((row) => row.id)).flatMap((id) => byId.get(id) ?? [])
}

export function bookSince(before: Book, since: Since): Book {
  const next: Record<string, unknown> = { ...before, ...since.parts }
  for (const kind of new Set([...Object.keys(since.entries ?? {}), ...Object.keys(since.order ?? {})])) {
    const fresh = (since.entries?.[kind] ?? []) as Rows
    next[kind] = rows((next[kind] ?? []) as Rows, fresh, since.order?.[kind])
  }
  return next as unknown as Book
}

export function mediaSince(before: Media[], { media }: Since): Media[] {
  return media.rows.length || media.order.length !== before.length
    ? (rows(before, media.rows, media.order) as Media[])
    : before
}
