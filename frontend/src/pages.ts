// The pages, each in one entry: its address, its title, what shows it. Routes, tabs and commands are made of it.
import type { RouteRecordRaw } from 'vue-router'

/** Pages that stand side by side as tabs, by the name of the group. */
export const TAB_GROUPS = { bulk: 'Bulk mail', tags: 'Tags' } as const
export type TabGroup = keyof typeof TAB_GROUPS

interface Page {
  name: string
  path: string
  /** What it is called where one can go to it by a command or a tab; those without are reached from elsewhere. */
  title?: string
  /** The page it belongs to, which is marked as the one that is open. */
  within?: string
  tabs?: TabGroup
  view: () => Promise<unknown>
}

export const PAGES: readonly Page[] = [
  { name: 'mail', path: '/in/:place/:message(\\d+)?', view: () => import('./views/MailView.vue') },
  {
    name: 'search',
    path: '/search/:message(\\d+)?',
    title: 'Search',
    view: () => import('./views/SearchView.vue'),
  },
  {
    name: 'outgoing',
    path: '/outgoing/:draft(\\d+)?',
    title: 'Outgoing',
    view: () => import('./views/OutgoingView.vue'),
  },
  {
    name: 'follow-up',
    path: '/follow-up',
    title: 'Follow-up',
    view: () => import('./views/FollowUpView.vue'),
  },
  {
    name: 'editions',
    path: '/editions/:edition(\\d+)?',
    title: 'Editions',
    view: () => import('./views/EditionsView.vue'),
  },
  {
    name: 'subscriptions',
    path: '/subscriptions',
    title: 'Subscriptions',
    tabs: 'bulk',
    view: () => import('./views/SubscriptionsView.vue'),
  },
  {
    name: 'old-mail',
    path: '/old-mail',
    title: 'Old mail',
    within: 'subscriptions',
    tabs: 'bulk',
    view: () => import('./views/OldMailView.vue'),
  },
  {
    name: 'addresses',
    path: '/addresses',
    title: 'Addresses',
    within: 'subscriptions',
    tabs: 'bulk',
    view: () => import('./views/AddressesView.vue'),
  },
  {
    name: 'mailboxes',
    path: '/mailboxes',
    title: 'Mailboxes',
    view: () => import('./views/MailboxesView.vue'),
  },
  {
    name: 'queues',
    path: '/queues/:queue(\\d+)?',
    title: 'Queues',
    view: () => import('./views/QueueView.vue'),
  },
  { name: 'away', path: '/away', title: 'Away', view: () => import('./views/AwayView.vue') },
  { name: 'rules', path: '/rules', title: 'Rules', view: () => import('./views/RulesView.vue') },
  { name: 'tags', path: '/tags', title: 'Tags', tabs: 'tags', view: () => import('./views/TagsView.vue') },
  {
    name: 'topics',
    path: '/topics',
    title: 'Topics',
    tabs: 'tags',
    view: () => import('./views/TopicsView.vue'),
  },
  { name: 'journal', path: '/journal', title: 'Journal', view: () => import('./views/JournalView.vue') },
  { name: 'import', path: '/import', title: 'Import', view: () => import('./views/ImportView.vue') },
  {
    name: 'try',
    path: '/try',
    title: 'Trial',
    within: 'import',
    view: () => import('./views/TryView.vue'),
  },
  {
    name: 'connect',
    path: '/connect/:account(\\d+)?',
    within: 'mailboxes',
    view: () => import('./views/ConnectView.vue'),
  },
  {
    name: 'leave',
    path: '/leave/:account(\\d+)',
    within: 'mailboxes',
    view: () => import('./views/LeaveView.vue'),
  },
  {
    name: 'authorised',
    path: '/authorised',
    within: 'mailboxes',
    view: () => import('./views/AuthorisedView.vue'),
  },
  {
    name: 'settings',
    path: '/settings/:part?',
    title: 'Settings',
    view: () => import('./views/SettingsView.vue'),
  },
]

/** Where a page stands that needs nothing more to be opened. */
function addressOf(page: Page): string {
  return page.path.replace(/\/:.*$/, '')
}

export const ROUTES: RouteRecordRaw[] = [
  { path: '/', redirect: '/in/desk' },
  ...PAGES.map(({ name, path, within, view }) => ({
    name,
    path,
    component: view,
    meta: within ? { within } : {},
  })),
  { path: '/:rest(.*)', redirect: '/in/desk' },
]

/** Pages one can go to by a command. */
export const TO_GO = PAGES.flatMap(({ name, title }) => (title ? [{ name, title }] : []))

/** The tabs of a group. */
export function tabsOf(group: TabGroup): { name: string; to: string; title: string }[] {
  return PAGES.filter((one) => one.tabs === group).map((one) => ({
    name: one.name,
    to: addressOf(one),
    title: one.title ?? one.name,
  }))
}
