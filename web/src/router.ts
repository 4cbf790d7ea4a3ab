import { createRouter, createWebHistory, type RouteRecordRaw } from 'vue-router'
import { toNext } from './composables/focus'

// Every folder of stages holds one view of a job, `…View.vue`, and is named as its address: a new one needs no word here.
const views = import.meta.glob<{ default: object }>('./stages/*/*View.vue')
const ofJob: RouteRecordRaw[] = Object.entries(views).map(([file, component]) => {
  const path = file.split('/')[2]!
  return { path, name: path.replaceAll('-', '_'), component }
})

/** Every job, stage and view has its own address. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'today', component: () => import('./today/TodayView.vue') },
    { path: '/hours', name: 'hours', component: () => import('./today/HoursPage.vue') },
    { path: '/numbers', name: 'numbers', component: () => import('./today/NumbersPage.vue') },
    { path: '/take-in', name: 'new', component: () => import('./stages/take-in/NewPack.vue') },
    { path: '/cells/:name?', name: 'cells', component: () => import('./cells/CellsView.vue') },
    { path: '/instruments', name: 'shop_instruments', component: () => import('./bench/instruments/ShopInstruments.vue') },
    { path: '/instruments/:id(\\d+)/teach', name: 'teach_a_meter', component: () => import('./bench/instruments/TeachMeter.vue') },
    { path: '/patterns', name: 'patterns', component: () => import('./patterns/PatternsView.vue') },
    { path: '/patterns/:id(\\d+)', name: 'pattern', component: () => import('./patterns/PatternView.vue') },
    { path: '/patterns/:id(\\d+)/with/:other(\\d+)', name: 'two_patterns', component: () => import('./patterns/CompareView.vue') },
    { path: '/returns', name: 'returns', component: () => import('./bench/ReturnsPage.vue') },
    { path: '/policy', name: 'policy', component: () => import('./bench/PolicyPage.vue') },
    { path: '/bench', name: 'bench', component: () => import('./bench/BenchSettings.vue') },
    {
      path: '/jobs/:id(\\d+)',
      component: () => import('./bench/JobFrame.vue'),
      children: [
        { path: '', name: 'job', component: () => import('./bench/ToStage.vue') },
        { path: 'instruments', name: 'instruments', component: () => import('./bench/instruments/JobInstruments.vue') },
        ...ofJob,
      ],
    },
    { path: '/:rest(.*)*', name: 'nowhere', component: () => import('./bench/NoSuchPage.vue') },
  ],
})

// Windows are told apart by their titles; a job's frame puts its pack before this.
router.afterEach(({ name }) => {
  const words = String(name).replaceAll('_', ' ')
  document.title = `${words.charAt(0).toUpperCase()}${words.slice(1)} · Saldatura`
  // A view with a field of its own takes the focus itself.
  setTimeout(() => document.activeElement === document.body && toNext(), 250)
})

export const stagePath = (id: number, stage: string) => `/jobs/${id}/${stage.replaceAll('_', '-')}`
