import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'

import App from './App.vue'
import { ApiProblem } from './api/client'
import { router } from './router'
import './style.css'

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5000,
      retry: (count, error) =>
        count < 2 && (!(error instanceof ApiProblem) || error.status === 0 || error.status >= 500),
    },
  },
})

createApp(App).use(router).use(VueQueryPlugin, { queryClient: queries }).mount('#app')
