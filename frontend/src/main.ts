import '@fontsource-variable/hanken-grotesk/wght.css'
import './styles/main.scss'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import { createRouter, createWebHistory } from 'vue-router'
import App from './App.vue'

const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/in/desk' },
    { path: '/in/:place/:message(\\d+)?', name: 'mail', component: () => import('./views/MailView.vue') },
    { path: '/search/:message(\\d+)?', name: 'search', component: () => import('./views/SearchView.vue') },
    {
      path: '/editions/:edition(\\d+)?',
      name: 'editions',
      component: () => import('./views/EditionsView.vue'),
    },
    {
      path: '/subscriptions',
      name: 'subscriptions',
      component: () => import('./views/SubscriptionsView.vue'),
    },
    {
      path: '/weigh-in',
      name: 'weigh-in',
      meta: { within: 'subscriptions' },
      component: () => import('./views/WeighInView.vue'),
    },
    {
      path: '/addresses',
      name: 'addresses',
      meta: { within: 'subscriptions' },
      component: () => import('./views/AddressesView.vue'),
    },
    { path: '/follow-up', name: 'follow-up', component: () => import('./views/FollowUpView.vue') },
    { path: '/queues/:queue(\\d+)?', name: 'queues', component: () => import('./views/QueueView.vue') },
    { path: '/away', name: 'away', component: () => import('./views/AwayView.vue') },
    { path: '/rules', name: 'rules', component: () => import('./views/RulesView.vue') },
    { path: '/tags', name: 'tags', component: () => import('./views/TagsView.vue') },
    { path: '/topics', name: 'topics', component: () => import('./views/TopicsView.vue') },
    { path: '/journal', name: 'journal', component: () => import('./views/JournalView.vue') },
    { path: '/import', name: 'import', component: () => import('./views/ImportView.vue') },
    {
      path: '/try',
      name: 'try',
      meta: { within: 'import' },
      component: () => import('./views/TryView.vue'),
    },
    {
      path: '/outgoing/:draft(\\d+)?',
      name: 'outgoing',
      component: () => import('./views/OutgoingView.vue'),
    },
    { path: '/mailboxes', name: 'mailboxes', component: () => import('./views/MailboxesView.vue') },
    {
      path: '/connect/:account(\\d+)?',
      name: 'connect',
      meta: { within: 'mailboxes' },
      component: () => import('./views/ConnectView.vue'),
    },
    {
      path: '/leave/:account(\\d+)',
      name: 'leave',
      meta: { within: 'mailboxes' },
      component: () => import('./views/LeaveView.vue'),
    },
    {
      path: '/authorised',
      name: 'authorised',
      meta: { within: 'mailboxes' },
      component: () => import('./views/AuthorisedView.vue'),
    },
    { path: '/settings/:part?', name: 'settings', component: () => import('./views/SettingsView.vue') },
    { path: '/:rest(.*)', redirect: '/in/desk' },
  ],
})
const queryClient = new QueryClient({
  defaultOptions: { queries: { staleTime: 30_000, retry: 1, retryDelay: 300, refetchOnWindowFocus: false } },
})

createApp(App).use(router).use(VueQueryPlugin, { queryClient }).mount('#app')
