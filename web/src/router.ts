import { createRouter, createWebHistory } from 'vue-router'

/** Every job, stage and view has its own address. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'today', component: () => import('./stages/today/TodayView.vue') },
    { path: '/take-in', name: 'new', component: () => import('./stages/takein/TakeInView.vue') },
    { path: '/instruments', name: 'shop_instruments', component: () => import('./bench/instruments/ShopInstruments.vue') },
    { path: '/bench', name: 'bench', component: () => import('./bench/BenchSettings.vue') },
    {
      path: '/jobs/:id(\\d+)',
      component: () => import('./bench/JobFrame.vue'),
      children: [
        { path: '', name: 'job', component: () => import('./bench/ToStage.vue') },
        { path: 'take-in', name: 'take_in', component: () => import('./stages/takein/TakenIn.vue') },
        { path: 'probe', name: 'probe', component: () => import('./stages/probe/ProbeView.vue') },
        { path: 'judge', name: 'judge', component: () => import('./stages/judge/JudgeView.vue') },
        { path: 'level', name: 'level', component: () => import('./stages/level/LevelView.vue') },
        { path: 'prove', name: 'prove', component: () => import('./stages/prove/ProveView.vue') },
        { path: 'measures', name: 'measures', component: () => import('./stages/measures/MeasuresView.vue') },
        { path: 'leads', name: 'leads', component: () => import('./stages/leads/LeadsView.vue') },
        { path: 'instruments', name: 'instruments', component: () => import('./bench/instruments/JobInstruments.vue') },
        { path: 'hand-over', name: 'hand_over', component: () => import('./stages/handover/HandOverView.vue') },
      ],
    },
    { path: '/:rest(.*)*', name: 'nowhere', component: () => import('./bench/NoSuchPage.vue') },
  ],
})

export const stagePath = (id: number, stage: string) => `/jobs/${id}/${stage.replaceAll('_', '-')}`
