import { createRouter, createWebHistory } from 'vue-router'

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
