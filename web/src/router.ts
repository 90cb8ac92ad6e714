import { createRouter, createWebHistory, type RouteLocationNormalized } from 'vue-router'

export const STATIONS = ['part', 'blank', 'bends', 'nest', 'cut', 'packet'] as const
export type StationWord = (typeof STATIONS)[number]

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'orders', component: () => import('@/pages/OrdersPage.vue') },
    { path: '/sign-in', name: 'sign-in', component: () => import('@/pages/SignInPage.vue') },
    { path: '/stores', name: 'stores', component: () => import('@/pages/StoresPage.vue') },
    { path: '/people', name: 'people', component: () => import('@/pages/PeoplePage.vue') },
    {
      path: '/orders/:order(\\d+)',
      redirect: (to) => ({ path: `/orders/${String(to.params.order)}/part` }),
    },
    {
      path: `/orders/:order(\\d+)/:station(${STATIONS.join('|')})/:part(\\d+)?`,
      name: 'station',
      component: () => import('@/pages/OrderPage.vue'),
    },
    { path: '/:rest(.*)*', name: 'nowhere', component: () => import('@/pages/NowherePage.vue') },
  ],
})

/** What each station shows in place of its usual views: it is so again when one comes back to it. */
const shown = new Map<string, string>()
const isElsewhere = (a: RouteLocationNormalized, b: RouteLocationNormalized) => a.params.station !== b.params.station || a.params.part !== b.params.part

router.beforeEach((to, from) => {
  const last = shown.get(String(to.params.station))
  return to.name === 'station' && last && !to.query.show && isElsewhere(to, from) ? { ...to, query: { ...to.query, show: last } } : true
})
router.afterEach((to) => {
  if (to.name === 'station') shown.set(String(to.params.station), String(to.query.show ?? ''))
})
