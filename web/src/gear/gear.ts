import '@fontsource-variable/bricolage-grotesque'
import '@fontsource/atkinson-hyperlegible/400.css'
import '@fontsource/atkinson-hyperlegible/700.css'
import '../styles/tokens.css'
import '../styles/base.css'
import { createApp, type Component } from 'vue'
import type { GearKindName } from '@/api/kinds'
import AvatarPage from './AvatarPage.vue'
import BroadcasterPage from './BroadcasterPage.vue'
import HapticsPage from './HapticsPage.vue'
import HookPage from './HookPage.vue'
import KeysPage from './KeysPage.vue'
import LightsPage from './LightsPage.vue'
import NoWindow from './NoWindow.vue'
import VoicePage from './VoicePage.vue'

/** The windows of the stand-ins, by the last part of their address. */
const WINDOWS: Record<GearKindName, Component> = {
  broadcaster: BroadcasterPage,
  lights: LightsPage,
  avatar: AvatarPage,
  voice: VoicePage,
  haptics: HapticsPage,
  keys: KeysPage,
  hook: HookPage,
}

const gear = location.pathname.split('/').pop() ?? ''
const page = WINDOWS[gear as GearKindName] as Component | undefined
if (page) createApp(page).mount('#app')
else createApp(NoWindow, { asked: gear, there: Object.keys(WINDOWS) }).mount('#app')
