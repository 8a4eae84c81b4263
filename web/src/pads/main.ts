import '@fontsource-variable/bricolage-grotesque'
import '@fontsource/atkinson-hyperlegible/400.css'
import '@fontsource/atkinson-hyperlegible/700.css'
import '../styles/tokens.css'
import '../styles/base.css'
import { createApp } from 'vue'
import '@/composables/useLook'
import PadsApp from './PadsApp.vue'

createApp(PadsApp).mount('#app')
if (window.isSecureContext && 'serviceWorker' in navigator) void navigator.serviceWorker.register('/sw.js')
