import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import App from './App.vue'
import { router } from './router'
import './style.css'

// What the server holds changes when somebody saves or records are loaded again;
// a screen that is opened asks anew.
const queryClient = new QueryClient({ defaultOptions: { queries: { retry: 1, staleTime: 5_000 } } })

createApp(App).use(VueQueryPlugin, { queryClient }).use(router).mount('#app')
