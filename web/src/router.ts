import { createRouter, createWebHistory } from 'vue-router'

/** The steps of the work, in order, as they stand along the left. */
export const STEPS = ['models', 'sheet', 'spreads', 'studies', 'verdict'] as const
export type Step = (typeof STEPS)[number]

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'boards', component: () => import('./views/BoardsView.vue') },
    {
      path: '/boards/:board',
      component: () => import('./views/BoardFrame.vue'),
      props: true,
      children: [
        { path: '', redirect: { name: 'sheet' } },
        { path: 'models', name: 'models', component: () => import('./views/ModelsView.vue') },
        { path: 'sheet', name: 'sheet', component: () => import('./views/SheetView.vue') },
        { path: 'spreads', name: 'spreads', component: () => import('./views/SpreadsView.vue') },
        { path: 'studies', name: 'studies', component: () => import('./views/StudiesView.vue') },
        { path: 'verdict', name: 'verdict', component: () => import('./views/VerdictView.vue') },
      ],
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})
