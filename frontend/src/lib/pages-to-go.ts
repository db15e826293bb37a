// The pages besides those of mail, by the name of their address.
export const PAGES = [
  { name: 'search', title: 'Search' },
  { name: 'outgoing', title: 'Outgoing' },
  { name: 'follow-up', title: 'Follow-up' },
  { name: 'editions', title: 'Editions' },
  { name: 'subscriptions', title: 'Subscriptions' },
  { name: 'weigh-in', title: 'Weigh-in' },
  { name: 'mailboxes', title: 'Mailboxes' },
  { name: 'queues', title: 'Queues' },
  { name: 'away', title: 'Away' },
  { name: 'rules', title: 'Rules' },
  { name: 'tags', title: 'Tags' },
  { name: 'topics', title: 'Topics' },
  { name: 'journal', title: 'Journal' },
  { name: 'import', title: 'Import' },
  { name: 'settings', title: 'Settings' },
] as const
