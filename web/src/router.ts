import { createRouter, createWebHistory } from 'vue-router'
import CuesPage from './pages/cues/CuesPage.vue'
import DeskPage from './pages/desk/DeskPage.vue'
import HomePage from './pages/HomePage.vue'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: HomePage },
    { path: '/desk', component: DeskPage },
    { path: '/cues', component: CuesPage },
    { path: '/cues/:id', component: () => import('./pages/cue/CuePage.vue'), props: true },
    { path: '/counts', component: () => import('./pages/counts/CountsPage.vue') },
    { path: '/lanes', component: () => import('./pages/lanes/LanesPage.vue') },
    { path: '/jars', component: () => import('./pages/jars/JarsPage.vue') },
    { path: '/media', component: () => import('./pages/media/MediaPage.vue') },
    { path: '/cast', component: () => import('./pages/cast/CastPage.vue') },
    { path: '/rewards', component: () => import('./pages/rewards/RewardsPage.vue') },
    { path: '/rig', component: () => import('./pages/rig/RigPage.vue') },
    { path: '/ledger', component: () => import('./pages/ledger/LedgerPage.vue') },
    { path: '/rehearse', component: () => import('./pages/rehearse/RehearsePage.vue') },
    { path: '/nights', component: () => import('./pages/nights/NightsPage.vue') },
    { path: '/nights/:id', component: () => import('./pages/nights/NightPage.vue'), props: true },
    { path: '/viewers', component: () => import('./pages/viewers/ViewersPage.vue') },
    { path: '/books', component: () => import('./pages/books/BooksPage.vue') },
    { path: '/books/in/:id', component: () => import('./pages/books/BringPage.vue'), props: true },
    { path: '/pads', component: () => import('./pages/pads/PadsPage.vue') },
    { path: '/phrases', component: () => import('./pages/pads/PhrasesPage.vue') },
    { path: '/snags', component: () => import('./pages/snags/SnagsPage.vue') },
    { path: '/opening', component: () => import('./pages/opening/OpeningPage.vue') },
    { path: '/:rest(.*)', component: () => import('./pages/NowherePage.vue') },
  ],
})
