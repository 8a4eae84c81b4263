/**
 * Where each field of the book is set by hand: the component that edits it, or why a person never should.
 *
 * A field of a model that is not here does not get past the type checker.
 */
import { BEATS } from './beats'
import { BOOK } from './book'
import type { Controls } from './control'
import { CUE } from './cue'
import { GEAR } from './gear'
import { REHEARSAL } from './rehearsal'

export type { Control } from './control'
export const CONTROLS: Controls = { ...BOOK, ...CUE, ...BEATS, ...GEAR, ...REHEARSAL }
