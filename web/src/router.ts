import { createRouter, createWebHistory, type RouteRecordNameGeneric } from 'vue-router'
import { t } from './lib/words'

const titles: Record<string, string> = {
  bay: 'ui.bay',
  shelf: 'ui.catalogue',
  vehicles: 'ui.vehicles',
  vehicle: 'ui.vehicle_page',
  figures: 'ui.figures',
  words: 'ui.words_of_trade',
  'api-page': 'ui.api_page',
  shop: 'ui.the_shop',
  audit: 'ui.audit',
  chain: 'ui.chain',
  practice: 'practice.bay',
  'practice-end': 'practice.end_page',
  guest: 'practice.bay',
  call: 'ui.in_the_seat',
  welcome: 'ui.welcome',
  'sign-in': 'ui.sign_in',
}
const titleOf = (name: RouteRecordNameGeneric) => (name && titles[String(name)] ? t(titles[String(name)]!) : '')

const station = {
  intake: () => import('./views/stations/Intake.vue'),
  diagnose: () => import('./views/stations/Diagnose.vue'),
  match: () => import('./views/stations/Match.vue'),
  replace: () => import('./views/stations/Replace.vue'),
  bench: () => import('./views/stations/Bench.vue'),
  bleed: () => import('./views/stations/Bleed.vue'),
  verify: () => import('./views/stations/Verify.vue'),
  record: () => import('./views/stations/Record.vue'),
}

export const stationIds = Object.keys(station) as (keyof typeof station)[]

export const router = createRouter({
  history: createWebHistory(),
  scrollBehavior: (_to, _from, saved) => saved ?? { top: 0 },
  routes: [
    { path: '/', name: 'bay', component: () => import('./views/Bay.vue') },
    { path: '/shelf', name: 'shelf', component: () => import('./views/Shelf.vue') },
    { path: '/vehicles', name: 'vehicles', component: () => import('./views/Vehicles.vue') },
    { path: '/vehicles/:id', name: 'vehicle', component: () => import('./views/Vehicle.vue') },
    ...(import.meta.env.DEV ? [{ path: '/gallery', component: () => import('./views/Gallery.vue') }] : []),
    { path: '/api-page', name: 'api-page', component: () => import('./views/ApiPage.vue') },
    { path: '/words', name: 'words', component: () => import('./views/Glossary.vue') },
    { path: '/figures', name: 'figures', component: () => import('./views/Figures.vue') },
    { path: '/shop', name: 'shop', component: () => import('./views/Shop.vue') },
    { path: '/welcome/:pass', name: 'welcome', component: () => import('./views/Welcome.vue'), meta: { open: true } },
    { path: '/guest/:pass', name: 'guest', component: () => import('./views/Guest.vue'), meta: { open: true } },
    { path: '/practice', name: 'practice', component: () => import('./views/Practice.vue') },
    { path: '/practice/:id/end', name: 'practice-end', component: () => import('./views/PracticeEnd.vue') },
    { path: '/chain', name: 'chain', component: () => import('./views/Chain.vue') },
    { path: '/audit', name: 'audit', component: () => import('./views/Audit.vue') },
    { path: '/call/:pass', name: 'call', component: () => import('./views/CallHelper.vue'), meta: { open: true } },
    { path: '/sign-in', name: 'sign-in', component: () => import('./views/SignIn.vue') },
    {
      path: '/jobs/:id',
      component: () => import('./views/JobFrame.vue'),
      children: stationIds.map((id) => ({ path: id, name: id, component: station[id] })),
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})

/** A job's frame names its own tab; every other page is named here. */
router.afterEach((to) => {
  if (!to.path.startsWith('/jobs/')) document.title = [titleOf(to.name), 'Geminate'].filter(Boolean).join(' · ')
})
