import '@fontsource-variable/bricolage-grotesque'
import '@fontsource/atkinson-hyperlegible/400.css'
import '@fontsource/atkinson-hyperlegible/700.css'
import 'element-plus/dist/index.css'
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
import ThingsPage from './ThingsPage.vue'
import VoicePage from './VoicePage.vue'

/** The windows of the stand-ins, by the last part of their address. The channel’s is the audience page. */
const WINDOWS: Record<Exclude<GearKindName, 'channel'>, Component> = {
  broadcaster: BroadcasterPage,
  lights: LightsPage,
  avatar: AvatarPage,
  voice: VoicePage,
  haptics: HapticsPage,
  things: ThingsPage,
  keys: KeysPage,
  hook: HookPage,
}

const gear = location.pathname.split('/').pop() ?? ''
const page = (WINDOWS as Record<string, Component | undefined>)[gear]
if (page) createApp(page).mount('#app')
else createApp(NoWindow, { asked: gear, there: Object.keys(WINDOWS) }).mount('#app')
