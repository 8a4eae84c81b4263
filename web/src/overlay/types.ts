/** The messages for an overlay, by the names used here. Times are ms since 1970 by the server's clock. */
import type { Schemas } from '@/api/client'

export type { OverlayMessage, ShowMessage } from '@/api/client'
export type Source = Schemas['Source']
export type Look = Schemas['Look']
export type Entrance = NonNullable<Look['enter']>
export type SpeechInfo = Schemas['SpeechTold']
export type OverlayInfo = Schemas['OverlaySetUp']
