import '@fontsource-variable/hanken-grotesk/wght.css'
import './styles/main.scss'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import { createRouter, createWebHistory } from 'vue-router'
import App from './App.vue'
import { ROUTES } from './pages'

const router = createRouter({ history: createWebHistory(), routes: ROUTES })
const queryClient = new QueryClient({
  defaultOptions: { queries: { staleTime: 30_000, retry: 1, retryDelay: 300, refetchOnWindowFocus: false } },
})

createApp(App).use(router).use(VueQueryPlugin, { queryClient }).mount('#app')
