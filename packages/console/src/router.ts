import { createRouter, createWebHistory } from 'vue-router'
import { currentSession, loadSession, teachesSomething } from './state/session'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    // Never shown: who is signed in decides below where it leads, once that is known.
    { path: '/', component: () => import('./pages/NotFound.vue') },
    { path: '/sign-in', component: () => import('./pages/SignIn.vue'), meta: { open: true, title: 'Sign in' } },
    { path: '/welcome', component: () => import('./pages/Welcome.vue'), meta: { open: true, title: 'Welcome' } },
    { path: '/set-up', component: () => import('./pages/SetUp.vue'), meta: { open: true, title: 'Set up' } },
    { path: '/watch', component: () => import('./pages/Watch.vue'), meta: { title: 'Watch' } },
    { path: '/tools', component: () => import('./pages/Tools.vue'), meta: { title: 'Tools' } },
    { path: '/tools/register', component: () => import('./pages/Register.vue'), meta: { title: 'Register a tool' } },
    {
      path: '/tools/register/by-hand',
      component: () => import('./pages/ToolForm.vue'),
      meta: { title: 'Register a tool by hand' },
    },
    { path: '/keys', component: () => import('./pages/PlatformKeys.vue'), meta: { title: 'Platform keys' } },
    {
      path: '/tools/:tool/sheet',
      component: () => import('./pages/ToolSheet.vue'),
      props: true,
      meta: { title: 'Exchange sheet' },
    },
    { path: '/tools/:tool', component: () => import('./pages/Tool.vue'), props: true, meta: { title: 'Tool' } },
    {
      path: '/tools/:tool/change',
      component: () => import('./pages/ToolForm.vue'),
      props: true,
      meta: { title: 'Change a tool' },
    },
    {
      path: '/identity-providers',
      component: () => import('./pages/IdentityProviders.vue'),
      meta: { title: 'Identity providers' },
    },
    { path: '/confirmed', component: () => import('./pages/Confirmed.vue'), meta: { open: true, title: 'Confirmed' } },
    { path: '/people', component: () => import('./pages/People.vue'), meta: { title: 'People' } },
    {
      path: '/people/:person',
      component: () => import('./pages/PersonPage.vue'),
      props: true,
      meta: { title: 'Person' },
    },
    {
      path: '/waiting-work',
      component: () => import('./pages/WaitingWork.vue'),
      meta: { title: 'Waiting to be graded' },
    },
    { path: '/cases', component: () => import('./pages/Cases.vue'), meta: { title: 'Cases' } },
    { path: '/audit', component: () => import('./pages/Audit.vue'), meta: { title: 'Audit' } },
    { path: '/courses', component: () => import('./pages/Courses.vue'), meta: { title: 'Courses' } },
    { path: '/courses/new', component: () => import('./pages/NewCourse.vue'), meta: { title: 'New course' } },
    {
      path: '/courses/:course/assignments/new',
      component: () => import('./pages/AssignmentForm.vue'),
      props: true,
      meta: { title: 'New assignment' },
    },
    {
      path: '/courses/:course/assignments/many',
      component: () => import('./pages/ManyAssignments.vue'),
      props: true,
      meta: { title: 'Many assignments' },
    },
    {
      path: '/courses/:course/items/:item',
      component: () => import('./pages/ItemPage.vue'),
      props: true,
      meta: { title: 'Unit item' },
    },
    {
      path: '/courses/:course/assignments/:assignment',
      component: () => import('./pages/Assignment.vue'),
      props: true,
      meta: { title: 'Assignment' },
    },
    {
      path: '/courses/:course/assignments/:assignment/change',
      component: () => import('./pages/AssignmentForm.vue'),
      props: true,
      meta: { title: 'Change an assignment' },
    },
    {
      path: '/courses/:course/assignments/:assignment/work',
      component: () => import('./pages/Work.vue'),
      props: true,
      meta: { title: 'Assignment' },
    },
    {
      path: '/courses/:course/assignments/:assignment/cases/:person',
      component: () => import('./pages/CasePage.vue'),
      props: true,
      meta: { title: 'Case' },
    },
    {
      path: '/courses/:course/rehearsal',
      component: () => import('./soundings/RehearsalPage.vue'),
      props: true,
      meta: { title: 'Rehearsal' },
    },
    {
      path: '/courses/:course/gradebook/:assignment/reconcile',
      component: () => import('./gradebook/ReconcilePage.vue'),
      props: true,
      meta: { title: 'Reconciliation' },
    },
    {
      path: '/courses/:course/menu/:entry',
      component: () => import('./pages/MenuWork.vue'),
      props: true,
      meta: { title: 'Course menu' },
    },
    {
      path: '/courses/:course/:part(outline|assignments|gradebook|people|menu|things|settings)?',
      component: () => import('./pages/Course.vue'),
      props: true,
      meta: { title: 'Course' },
    },
    { path: '/soundings', component: () => import('./pages/Soundings.vue'), meta: { title: 'Soundings' } },
    {
      path: '/sweeps/:id',
      component: () => import('./pages/SweepPage.vue'),
      props: true,
      meta: { title: 'Sweep' },
    },
    {
      path: '/soundings/:id',
      component: () => import('./pages/Sounding.vue'),
      props: true,
      meta: { title: 'Sounding' },
    },
    {
      path: '/soundings/:id/against/:earlier?',
      component: () => import('./soundings/ComparePage.vue'),
      props: true,
      meta: { title: 'Two soundings' },
    },
    { path: '/wire', component: () => import('./pages/Wire.vue'), meta: { title: 'Wire' } },
    {
      path: '/wire/explain',
      component: () => import('./pages/WireExplain.vue'),
      meta: { title: 'Explain a message' },
    },
    {
      path: '/wire/story',
      component: () => import('./pages/WireStoryPage.vue'),
      meta: { title: 'A story from a file' },
    },
    { path: '/wire/causes', component: () => import('./pages/Causes.vue'), meta: { title: 'Causes' } },
    {
      path: '/wire/:entry/story',
      component: () => import('./pages/WireStoryPage.vue'),
      props: true,
      meta: { title: 'The story of a launch' },
    },
    {
      path: '/wire/:entry',
      component: () => import('./pages/WireEntry.vue'),
      props: true,
      meta: { title: 'Wire entry' },
    },
    { path: '/glossary', component: () => import('./pages/Glossary.vue'), meta: { title: 'Glossary' } },
    { path: '/connect', component: () => import('./pages/Connect.vue'), meta: { title: 'Connect a tool' } },
    { path: '/account', component: () => import('./pages/Account.vue'), meta: { title: 'Your account' } },
    { path: '/:rest(.*)*', component: () => import('./pages/NotFound.vue'), meta: { title: 'Not found' } },
  ],
})

router.beforeEach(async (to) => {
  if (currentSession.value === undefined) await loadSession().catch(() => undefined)
  if (!currentSession.value && !to.meta['open'])
    return { path: '/sign-in', query: to.path === '/' ? {} : { next: to.fullPath } }
  if (to.path === '/' && currentSession.value) return teachesSomething.value ? '/watch' : '/courses'
  return undefined
})

router.afterEach((to) => {
  document.title = `${String(to.meta['title'] ?? '')} – Bathyscribe`
})
