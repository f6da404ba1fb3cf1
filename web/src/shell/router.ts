import { createRouter, createWebHistory } from 'vue-router'
import { useSession } from '../entry/session'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/cases' },
    { path: '/sign-in', name: 'sign-in', component: () => import('../entry/EntryPage.vue'), meta: { open: true } },
    { path: '/cases', name: 'cases', component: () => import('../cases/CasesPage.vue') },
    {
      path: '/cases/:caseId',
      component: () => import('../cases/CaseFrame.vue'),
      props: true,
      children: [
        { path: '', redirect: (to) => `/cases/${String(to.params.caseId)}/read` },
        { path: 'look', name: 'look', component: () => import('../look/LookPage.vue') },
        { path: 'read', name: 'read', component: () => import('../read/ReadPage.vue') },
        { path: 'rebuild', name: 'rebuild', component: () => import('../rebuild/RebuildPage.vue') },
        { path: 'build', name: 'build', component: () => import('../build/BuildPage.vue') },
        { path: 'takes', name: 'takes', component: () => import('../takes/TakesPage.vue') },
        { path: 'takes/sheet', name: 'contact-sheet', component: () => import('../takes/ContactSheet.vue') },
        { path: 'plates', name: 'plates', component: () => import('../plates/PlatesPage.vue') },
        { path: 'series', name: 'series', component: () => import('../series/SeriesPage.vue') },
        { path: 'verdict', name: 'verdict', component: () => import('../verdict/VerdictPage.vue') },
      ],
    },
    { path: '/installation', name: 'installation', component: () => import('../class/InstallationPage.vue') },
    { path: '/classes', name: 'classes', component: () => import('../class/ClassesPage.vue') },
    { path: '/classes/:classId', name: 'class', component: () => import('../class/ClassPage.vue'), props: true },
    { path: '/classes/:classId/students/:account', name: 'student', component: () => import('../class/StudentPage.vue'), props: true },
    { path: '/account', name: 'account', component: () => import('../entry/AccountPage.vue') },
    { path: '/assignments/:assignmentId', name: 'assignment', component: () => import('../class/AssignmentPage.vue'), props: true },
    { path: '/submissions/:submissionId', name: 'submission', component: () => import('../class/SubmissionPage.vue'), props: true },
    { path: '/rounds/:roundId', name: 'round', component: () => import('../live/RoundPage.vue'), props: true },
    { path: '/live/:code?', name: 'live', component: () => import('../live/PlayPage.vue'), props: true, meta: { open: true } },
    { path: '/plan', name: 'plan', component: () => import('../wish/WishPage.vue') },
    { path: '/bench', name: 'bench', component: () => import('../bench/BenchPage.vue') },
    { path: '/recipes', name: 'recipes', component: () => import('../recipes/RecipesPage.vue') },
    { path: '/kit', name: 'kit', component: () => import('../kit/KitPage.vue') },
    { path: '/:rest(.*)*', component: () => import('./LostPage.vue'), meta: { open: true } },
  ],
})

router.beforeEach(async (to) => {
  const session = useSession()
  if (session.person === undefined) await session.ask()
  if (!to.meta.open && !session.person) return { name: 'sign-in', query: { next: to.fullPath } }
})
