/** A field's control: the component that edits it, or why a person never should. */
import type { Schemas } from '@/api/client'
import type { BookModel } from '@/api/kinds'

/** Names of models that differ for reading and writing. */
type SchemaOf<M extends BookModel> = M extends keyof Schemas
  ? Schemas[M]
  : `${M}-Output` extends keyof Schemas
    ? Schemas[`${M}-Output`]
    : never

export type Control = { at: string } | { never: string }
export type Controls = { [M in BookModel]: Record<keyof SchemaOf<M> & string, Control> }

export const at = (component: string): Control => ({ at: component })
export const never = (why: string): Control => ({ never: why })

export const ID = never('given when it is made, and never changed')
export const KIND = never('chosen when it is added')
export const INSIDE = never('has fields of its own, each here')
