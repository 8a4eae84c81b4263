/**
 * Where each field of the book is set by hand: the component that edits it, or why a person never should.
 *
 * The type checker refuses a model's field that is missing here.
 */
import { BEATS } from './beats'
import { BOOK } from './book'
import type { Controls } from './control'
import { CUE } from './cue'
import { GEAR } from './gear'
import { REHEARSAL } from './rehearsal'

export type { Control } from './control'
export const CONTROLS: Controls = { ...BOOK, ...CUE, ...BEATS, ...GEAR, ...REHEARSAL }
