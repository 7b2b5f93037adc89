import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import { session } from './api/client'
import { queries } from './api/queries'
import App from './App.vue'
import { router } from './router'
import './style.css'

// What the server holds changes when somebody saves or records are loaded again;
// a screen that is opened asks anew.
const queryClient = new QueryClient({ defaultOptions: { queries: { retry: 1, staleTime: 5_000 } } })

// The end of a session, whoever meets it: one signs in above whatever is open, and goes on.
session.ended = () => void queryClient.setQueryData(queries.me().queryKey, null)

// After a new version was served a piece of the old one is missing. The page is loaded again, and
// what was being done is kept, as it is at every step; not twice in a row, should that not help.
window.addEventListener('vite:preloadError', (event) => {
  const reloaded = 'gavrik.reloaded'
  if (Date.now() - Number(sessionStorage.getItem(reloaded) ?? 0) < 10_000) return
  sessionStorage.setItem(reloaded, String(Date.now()))
  event.preventDefault()
  location.reload()
})

createApp(App).use(VueQueryPlugin, { queryClient }).use(router).mount('#app')
