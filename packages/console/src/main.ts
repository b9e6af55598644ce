import 'bootstrap/dist/css/bootstrap.min.css'
import 'bootstrap-vue-next/dist/bootstrap-vue-next.css'
import './theme.css'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { ServiceRefusal } from '@bathyscribe/contract'
import { createBootstrap } from 'bootstrap-vue-next'
import { createApp } from 'vue'
import App from './App.vue'
import { router } from './router'
import { applyTheme } from './state/theme'

applyTheme()
const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      // A refusal stays one however often it is asked for; only what cannot be reached is tried again.
      retry: (count, error) => count < 2 && (!(error instanceof ServiceRefusal) || error.problem.status >= 500),
    },
  },
})
// oxlint-disable-next-line typescript/no-unsafe-argument -- oxlint cannot read the type of a .vue file; vue-tsc does
createApp(App).use(createBootstrap()).use(VueQueryPlugin, { queryClient: queries }).use(router).mount('#app')
