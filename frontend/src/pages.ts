// The pages, each in one entry: its address, its title, what shows it. Routes, tabs and commands are made of it.
import type { RouteRecordRaw } from 'vue-router'

/** The places of the application, as the spine has them: everything else is a tab in one of them. */
export const PLACES = [
  { name: 'mail', title: 'Mail', to: '/in/desk' },
  { name: 'follow-up', title: 'Follow-up', to: '/follow-up' },
  { name: 'editions', title: 'Editions', to: '/editions' },
  { name: 'outgoing', title: 'Outgoing', to: '/outgoing' },
  { name: 'bulk', title: 'Bulk mail', to: '/subscriptions' },
  { name: 'automatic', title: 'Automatic', to: '/rules' },
  { name: 'trust', title: 'Trust', to: '/senders' },
  { name: 'settings', title: 'Settings', to: '/settings' },
] as const
export type PlaceName = (typeof PLACES)[number]['name']

interface Page {
  name: string
  path: string
  /** The place it stands in. */
  place: PlaceName
  /** What it is called where one can go to it by a command or a tab; those without are reached from elsewhere. */
  title?: string
  /** The page whose tab is on while it is open, where it has none of its own. */
  within?: string
  /** That it is no tab, although one can go to it. */
  apart?: boolean
  view: () => Promise<unknown>
}

export const PAGES: readonly Page[] = [
  {
    name: 'mail',
    path: '/in/:place/:message(\\d+)?',
    place: 'mail',
    view: () => import('./views/MailView.vue'),
  },
  {
    name: 'search',
    path: '/search/:message(\\d+)?',
    place: 'mail',
    title: 'Search',
    apart: true,
    view: () => import('./views/SearchView.vue'),
  },
  {
    name: 'queues',
    path: '/queues/:queue(\\d+)?',
    place: 'mail',
    title: 'Queues',
    apart: true,
    view: () => import('./views/QueueView.vue'),
  },
  {
    name: 'follow-up',
    path: '/follow-up',
    place: 'follow-up',
    title: 'Follow-up',
    view: () => import('./views/FollowUpView.vue'),
  },
  {
    name: 'editions',
    path: '/editions/:edition(\\d+)?',
    place: 'editions',
    title: 'Editions',
    view: () => import('./views/EditionsView.vue'),
  },
  {
    name: 'outgoing',
    path: '/outgoing/:draft(\\d+)?',
    place: 'outgoing',
    title: 'Outgoing',
    view: () => import('./views/OutgoingView.vue'),
  },
  {
    name: 'phrases',
    path: '/phrases',
    place: 'outgoing',
    title: 'Phrases',
    view: () => import('./views/PhrasesView.vue'),
  },
  {
    name: 'away',
    path: '/away',
    place: 'outgoing',
    title: 'Away',
    view: () => import('./views/AwayView.vue'),
  },
  {
    name: 'subscriptions',
    path: '/subscriptions',
    place: 'bulk',
    title: 'Subscriptions',
    view: () => import('./views/SubscriptionsView.vue'),
  },
  {
    name: 'old-mail',
    path: '/old-mail',
    place: 'bulk',
    title: 'Old mail',
    view: () => import('./views/OldMailView.vue'),
  },
  {
    name: 'addresses',
    path: '/addresses',
    place: 'bulk',
    title: 'Addresses',
    view: () => import('./views/AddressesView.vue'),
  },
  {
    name: 'rules',
    path: '/rules',
    place: 'automatic',
    title: 'Rules',
    view: () => import('./views/RulesView.vue'),
  },
  {
    name: 'topics',
    path: '/topics',
    place: 'automatic',
    title: 'Topics',
    view: () => import('./views/TopicsView.vue'),
  },
  {
    name: 'routines',
    path: '/routines',
    place: 'automatic',
    title: 'Routines',
    view: () => import('./views/RoutinesView.vue'),
  },
  {
    name: 'senders',
    path: '/senders',
    place: 'trust',
    title: 'Senders',
    view: () => import('./views/SendersView.vue'),
  },
  {
    name: 'journal',
    path: '/journal',
    place: 'trust',
    title: 'Journal',
    view: () => import('./views/JournalView.vue'),
  },
  { name: 'try', path: '/try', place: 'trust', title: 'Trial', view: () => import('./views/TryView.vue') },
  {
    name: 'settings',
    path: '/settings/:part?',
    place: 'settings',
    title: 'Settings',
    view: () => import('./views/SettingsView.vue'),
  },
  {
    name: 'mailboxes',
    path: '/mailboxes',
    place: 'settings',
    title: 'Mailboxes',
    view: () => import('./views/MailboxesView.vue'),
  },
  {
    name: 'tags',
    path: '/tags',
    place: 'settings',
    title: 'Tags',
    view: () => import('./views/TagsView.vue'),
  },
  {
    name: 'import',
    path: '/import',
    place: 'settings',
    title: 'Import',
    view: () => import('./views/ImportView.vue'),
  },
  {
    name: 'connect',
    path: '/connect/:account(\\d+)?',
    place: 'settings',
    within: 'mailboxes',
    view: () => import('./views/ConnectView.vue'),
  },
  {
    name: 'leave',
    path: '/leave/:account(\\d+)',
    place: 'settings',
    within: 'mailboxes',
    view: () => import('./views/LeaveView.vue'),
  },
  {
    name: 'authorised',
    path: '/authorised',
    place: 'settings',
    within: 'mailboxes',
    view: () => import('./views/AuthorisedView.vue'),
  },
]

/** Where a page stands that needs nothing more to be opened. */
function addressOf(page: Page): string {
  return page.path.replace(/\/:.*$/, '')
}

export const ROUTES: RouteRecordRaw[] = [
  { path: '/', redirect: '/in/desk' },
  ...['phrases', 'routines', 'senders'].map((name) => ({ path: `/settings/${name}`, redirect: `/${name}` })),
  ...PAGES.map(({ name, path, place, within, view }) => ({
    name,
    path,
    component: view,
    meta: { place, tab: within ?? name },
  })),
  { path: '/:rest(.*)', redirect: '/in/desk' },
]

/** Pages one can go to by a command. */
export const TO_GO = PAGES.flatMap(({ name, title }) => (title ? [{ name, title }] : []))

/** The tabs of a place; none where there is but one page. */
export function tabsOf(place: unknown): { name: string; to: string; title: string }[] {
  const pages = PAGES.filter((one) => one.place === place && one.title && !one.apart)
  return pages.length < 2
    ? []
    : pages.map((one) => ({ name: one.name, to: addressOf(one), title: one.title ?? one.name }))
}
