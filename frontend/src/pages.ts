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
  /** What it is for, said on the first visits. */
  about?: string
  /** That this is said at the top of its list, beside the mail, and not above it. */
  listed?: boolean
  /** The part of the guide that is about it. */
  guide: string
  /** The page whose tab is on while it is open, where it has none of its own. */
  within?: string
  /** That it is no tab, although one can go to it. */
  apart?: boolean
  view: () => Promise<unknown>
}

export const PAGES: readonly Page[] = [
  {
    name: 'mail',
    guide: 'The places',
    about:
      'Each message stands in a bucket by how much it matters to you. Where one stands wrong, say where it belongs: that teaches Hieranome.',
    listed: true,
    path: '/in/:place/:message(\\d+)?',
    place: 'mail',
    view: () => import('./views/MailView.vue'),
  },
  {
    name: 'search',
    guide: 'Searching',
    about: 'A search looks through all mail. Save a line, and it stands at the left.',
    listed: true,
    path: '/search/:message(\\d+)?',
    place: 'mail',
    title: 'Search',
    apart: true,
    view: () => import('./views/SearchView.vue'),
  },
  {
    name: 'queues',
    guide: 'Queues',
    about: 'A queue takes matters through steps: what is asked for, what waits, what is done.',
    path: '/queues/:queue(\\d+)?',
    place: 'mail',
    title: 'Queues',
    apart: true,
    view: () => import('./views/QueueView.vue'),
  },
  {
    name: 'follow-up',
    guide: 'Following through',
    about: 'What is due, what you wait for and what others wait for from you, by day.',
    path: '/follow-up',
    place: 'follow-up',
    title: 'Follow-up',
    view: () => import('./views/FollowUpView.vue'),
  },
  {
    name: 'editions',
    guide: 'Editions',
    about: 'Editions put together, at times you choose, what can be read in one go.',
    path: '/editions/:edition(\\d+)?',
    place: 'editions',
    title: 'Editions',
    view: () => import('./views/EditionsView.vue'),
  },
  {
    name: 'outgoing',
    guide: 'Outgoing',
    about: 'What you write, what waits to be sent, and what could not be sent.',
    path: '/outgoing/:draft(\\d+)?',
    place: 'outgoing',
    title: 'Outgoing',
    view: () => import('./views/OutgoingView.vue'),
  },
  {
    name: 'phrases',
    guide: 'Phrasebook',
    path: '/phrases',
    place: 'outgoing',
    title: 'Phrases',
    view: () => import('./views/PhrasesView.vue'),
  },
  {
    name: 'away',
    guide: 'Away',
    about: 'While you are away, a notice answers those you choose, once each.',
    path: '/away',
    place: 'outgoing',
    title: 'Away',
    view: () => import('./views/AwayView.vue'),
  },
  {
    name: 'subscriptions',
    guide: 'Subscriptions',
    about:
      'Newsletters and other bulk mail, one line a sender: say once where all of it belongs, or unsubscribe.',
    path: '/subscriptions',
    place: 'bulk',
    title: 'Subscriptions',
    view: () => import('./views/SubscriptionsView.vue'),
  },
  {
    name: 'old-mail',
    guide: 'Old mail',
    about: 'Old mail by size. Choose what may go; one step brings all of it back.',
    path: '/old-mail',
    place: 'bulk',
    title: 'Old mail',
    view: () => import('./views/OldMailView.vue'),
  },
  {
    name: 'addresses',
    guide: 'Addresses',
    about: 'Your addresses, what each is for, and which were passed on.',
    path: '/addresses',
    place: 'bulk',
    title: 'Addresses',
    view: () => import('./views/AddressesView.vue'),
  },
  {
    name: 'rules',
    guide: 'Rules',
    about: 'A rule is for what you know for sure. What is a matter of judgement is better taught.',
    path: '/rules',
    place: 'automatic',
    title: 'Rules',
    view: () => import('./views/RulesView.vue'),
  },
  {
    name: 'topics',
    guide: 'Topics',
    about: 'A topic is a tag that finds its mail: describe it in words, and answer a few questions.',
    path: '/topics',
    place: 'automatic',
    title: 'Topics',
    view: () => import('./views/TopicsView.vue'),
  },
  {
    name: 'routines',
    guide: 'Routines',
    path: '/routines',
    place: 'automatic',
    title: 'Routines',
    view: () => import('./views/RoutinesView.vue'),
  },
  {
    name: 'senders',
    guide: 'Senders you vouch for',
    path: '/senders',
    place: 'trust',
    title: 'Senders',
    view: () => import('./views/SendersView.vue'),
  },
  {
    name: 'journal',
    guide: 'Verdicts',
    path: '/journal',
    place: 'trust',
    title: 'Journal',
    view: () => import('./views/JournalView.vue'),
  },
  {
    name: 'try',
    guide: 'Trying it on mail you have',
    about: 'Pass old mail through Hieranome, to see how often it would have been wrong.',
    path: '/try',
    place: 'trust',
    title: 'Trial',
    view: () => import('./views/TryView.vue'),
  },
  {
    name: 'settings',
    guide: 'Settings',
    path: '/settings/:part?',
    place: 'settings',
    title: 'Settings',
    view: () => import('./views/SettingsView.vue'),
  },
  {
    name: 'mailboxes',
    guide: 'Mailboxes',
    about: 'Your mailboxes at their servers. Nothing is moved there before you allow it.',
    path: '/mailboxes',
    place: 'settings',
    title: 'Mailboxes',
    view: () => import('./views/MailboxesView.vue'),
  },
  {
    name: 'tags',
    guide: 'Tags',
    about: 'Tags say what mail is about, beside the bucket it stands in.',
    path: '/tags',
    place: 'settings',
    title: 'Tags',
    view: () => import('./views/TagsView.vue'),
  },
  {
    name: 'import',
    guide: 'What happens to mail you import',
    path: '/import',
    place: 'settings',
    title: 'Import',
    view: () => import('./views/ImportView.vue'),
  },
  {
    name: 'connect',
    guide: 'Mailboxes',
    path: '/connect/:account(\\d+)?',
    place: 'settings',
    within: 'mailboxes',
    view: () => import('./views/ConnectView.vue'),
  },
  {
    name: 'leave',
    guide: 'Mailboxes',
    path: '/leave/:account(\\d+)',
    place: 'settings',
    within: 'mailboxes',
    view: () => import('./views/LeaveView.vue'),
  },
  {
    name: 'authorised',
    guide: 'Mailboxes',
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
  ...PAGES.map(({ name, path, place, within, about, listed, guide, view }) => ({
    name,
    path,
    component: view,
    meta: { place, tab: within ?? name, about, listed, guide },
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
