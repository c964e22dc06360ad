import { createRouter, createWebHistory } from 'vue-router'
import ProjectsPage from './pages/ProjectsPage.vue'
import SignInPage from './pages/SignInPage.vue'
import { useSession } from './stores/session'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'projects', component: ProjectsPage },
    { path: '/sign-in', name: 'sign-in', component: SignInPage },
    {
      path: '/projects/:id(\\d+)/:stage?',
      name: 'workbench',
      component: () => import('./pages/WorkbenchPage.vue'),
      props: (r) => ({ projectId: Number(r.params.id) }),
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})

router.beforeEach(async (to) => {
  const session = useSession()
  await session.load()
  if (!session.username && to.name !== 'sign-in') return { name: 'sign-in', query: { next: to.fullPath } }
  return true
})
