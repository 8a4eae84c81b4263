import '@fontsource-variable/bricolage-grotesque'
import '@fontsource/atkinson-hyperlegible/400.css'
import '@fontsource/atkinson-hyperlegible/700.css'
import 'element-plus/dist/index.css'
import '../styles/tokens.css'
import '../styles/base.css'
import { createApp } from 'vue'
import AudiencePage from './AudiencePage.vue'

createApp(AudiencePage).mount('#app')
