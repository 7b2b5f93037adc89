import { ref } from 'vue'
import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'desk', component: () => import('./desk/DeskPage.vue') },
    { path: '/views', name: 'library', component: () => import('./library/ViewsPage.vue') },
    {
      path: '/bring-in/:file?',
      name: 'bring-in',
      component: () => import('./intake/IntakePage.vue'),
      props: true,
    },
    {
      path: '/boards',
      name: 'boards',
      component: () => import('./library/ViewsPage.vue'),
      props: { kind: 'board' },
    },
    { path: '/b/:key', name: 'board', component: () => import('./boards/BoardPage.vue') },
    { path: '/records', name: 'records', component: () => import('./records/RecordsPage.vue') },
    {
      path: '/overview/:set',
      name: 'overview',
      component: () => import('./overview/OverviewPage.vue'),
      props: true,
    },
    {
      path: '/definitions',
      name: 'definitions',
      component: () => import('./definitions/DefinitionsPage.vue'),
    },
    {
      path: '/deliveries',
      name: 'deliveries',
      component: () => import('./deliveries/DeliveriesPage.vue'),
    },
    { path: '/people', name: 'people', component: () => import('./people/PeoplePage.vue') },
    { path: '/v/:key', name: 'view', component: () => import('./bench/BenchPage.vue'), props: true },
    {
      path: '/v/:view/kept',
      name: 'kept results',
      component: () => import('./kept/KeptListPage.vue'),
      props: true,
    },
    { path: '/k/:kept', name: 'kept result', component: () => import('./kept/KeptPage.vue'), props: true },
    {
      path: '/k/:kept/differences',
      name: 'differences',
      component: () => import('./kept/DifferencesPage.vue'),
      props: true,
    },
    {
      path: '/r/:set/:recordKey',
      name: 'record',
      component: () => import('./record/RecordPage.vue'),
      props: true,
    },
    { path: '/new/:set', name: 'new', component: () => import('./bench/BenchPage.vue'), props: true },
    { path: '/:rest(.*)*', component: () => import('./shell/NotFoundPage.vue') },
  ],
})

/** Counts the screens: another path is another screen, made afresh. */
export const screen = ref(0)
let staying = false

/** The next change of path goes on with the screen that is open, as when a new view gets its address. */
export function stayOnScreen() {
  staying = true
}

/** Makes the screen that is open afresh, from what its address says now. */
export function remakeScreen() {
  screen.value++
}

router.afterEach((to, from) => {
  if (!staying && to.path !== from.path) screen.value++
  staying = false
})
