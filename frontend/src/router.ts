import { createRouter, createWebHistory } from 'vue-router'

import { ApiProblem, api, ask, session } from './api/client'
import { unkept } from './shared/drafts'
import { asked } from './shared/questions'

/** Asked where this desk has no room to keep what was typed. */
const LEAVING = {
  title: 'What you typed is not saved',
  text: 'This desk has no room to keep it for later. Leaving the page gives it up.',
  yes: 'Leave all the same',
  no: 'Stay here',
}

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/first', component: () => import('./features/sign-in/FirstLead.vue'), meta: { open: true } },
    { path: '/sign-in', component: () => import('./features/sign-in/SignIn.vue'), meta: { open: true } },
    { path: '/', component: () => import('./features/home/Home.vue') },
    { path: '/tests', component: () => import('./features/tests/TestList.vue') },
    { path: '/tests/:id(\\d+)', component: () => import('./features/workbench/Workbench.vue') },
    { path: '/tests/:id(\\d+)/blind-spots', component: () => import('./features/blind/BlindSpots.vue') },
    { path: '/blind-spots', component: () => import('./features/blind/BlindList.vue') },
    { path: '/flows', component: () => import('./features/flows/FlowList.vue') },
    { path: '/visits/:id(\\d+)', component: () => import('./features/visits/VisitPage.vue') },
    { path: '/code/:id(\\d+)', component: () => import('./features/flows/CodePage.vue') },
    { path: '/pages', component: () => import('./features/pages/PageList.vue') },
    { path: '/data', component: () => import('./features/tables/TableList.vue') },
    { path: '/data/:id(\\d+)', component: () => import('./features/tables/TablePage.vue') },
    { path: '/plans', component: () => import('./features/plans/PlanList.vue') },
    { path: '/plans/calendar', component: () => import('./features/plans/Calendar.vue') },
    { path: '/plans/:id(\\d+)', component: () => import('./features/plans/PlanPage.vue') },
    { path: '/plan-runs/:id(\\d+)', component: () => import('./features/plans/PlanRunPage.vue') },
    { path: '/runs', component: () => import('./features/runs/RunList.vue') },
    { path: '/runs/:id(\\d+)', component: () => import('./features/runs/RunPage.vue') },
    { path: '/beside/:one(\\d+)', component: () => import('./features/besides/BesidePage.vue') },
    { path: '/requirements', component: () => import('./features/trends/Requirements.vue') },
    { path: '/trends', component: () => import('./features/trends/Trends.vue') },
    { path: '/defects', component: () => import('./features/defects/DefectList.vue') },
    { path: '/defects/:id(\\d+)', component: () => import('./features/defects/DefectPage.vue') },
    { path: '/stations', component: () => import('./features/stations/StationList.vue') },
    { path: '/stations/:key', component: () => import('./features/stations/StationPage.vue') },
    { path: '/settings', component: () => import('./features/settings/Settings.vue') },
    { path: '/:rest(.*)*', component: () => import('./features/home/NotFound.vue') },
  ],
})

router.beforeEach(async (to, from) => {
  if (unkept.size && to.path !== from.path && !(await asked(LEAVING))) return false
  if (to.meta.open) return true
  if (!session.me) {
    try {
      session.me = await ask(api.GET('/api/me'))
    } catch (error) {
      if (error instanceof ApiProblem && error.status === 401)
        return { path: '/sign-in', query: { next: to.fullPath } }
      return true // the page itself says that Lantern does not answer
    }
  }
  return true
})
