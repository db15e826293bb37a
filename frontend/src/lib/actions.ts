// Everything that can be done, as data: its keys, its words, what it needs. Keys, help, command line and docs read it.
export type Need =
  | 'tag'
  | 'carried'
  | 'bucket'
  | 'folder'
  | 'place'
  | 'sender'
  | 'date'
  | 'when'
  | 'phrase'
  | 'routine'
  | 'line'
  | 'name'

interface Described {
  name: string
  keys: readonly string[]
  title: string
  needs?: Need
}

const TABLE = [
  { name: 'put-0', keys: ['a'], title: 'Put in the first place of the band (Desk)' },
  { name: 'put-1', keys: ['s'], title: 'Put in the second (Shelf)' },
  { name: 'put-2', keys: ['d'], title: 'Put in the third (Digest)' },
  { name: 'put-3', keys: ['f'], title: 'Put in the fourth (Drain)' },
  { name: 'put-4', keys: ['g'], title: 'Put in the first bucket of your own' },
  { name: 'refuse', keys: ['r'], title: 'Refuse: mail of this sender or list to the Drain, always' },
  { name: 'unsubscribe', keys: ['U'], title: 'Unsubscribe; what will be done is shown first' },
  { name: 'leave-out', keys: ['O'], title: 'Let this sender or list stand in no edition' },
  { name: 'reach', keys: ['e'], title: 'Change how far the next lesson reaches' },
  { name: 'follow', keys: ['y'], title: 'Move mail similar to the last lesson too' },
  { name: 'undo', keys: ['u'], title: 'Undo the latest step' },
  { name: 'weigh-up', keys: ['+'], title: 'Teach that it matters more, and leave it where it stands' },
  { name: 'weigh-down', keys: ['-'], title: 'Teach that it matters less, and leave it where it stands' },
  { name: 'archive', keys: ['w'], title: 'Put in the Archive' },
  { name: 'archive-dealt', keys: ['D'], title: 'Put all that is dealt with in the Archive' },
  { name: 'second-move', keys: ['A'], title: 'Move what a second look offers' },
  { name: 'second-leave', keys: ['N'], title: 'Leave what a second look offers where it stands' },
  { name: 'trash', keys: ['x'], title: 'Put in the Trash' },
  { name: 'file', keys: ['t'], title: 'File in a folder', needs: 'folder' },
  { name: 'tag', keys: ['T'], title: 'Put a tag on', needs: 'tag' },
  { name: 'tag-away', keys: ['W'], title: 'Put a tag on, and the message in the Archive', needs: 'tag' },
  { name: 'untag', keys: ['B'], title: 'Take a tag off', needs: 'carried' },
  { name: 'topic-yes', keys: ['Y'], title: 'It belongs to the topic that asks' },
  { name: 'topic-no', keys: ['X'], title: 'It does not belong to the topic that asks' },
  { name: 'make-rule', keys: ['R'], title: 'Make a rule of what is open, selected or found' },
  { name: 'rule-up', keys: ['<'], title: 'Move the rule up' },
  { name: 'rule-down', keys: ['>'], title: 'Move the rule down' },
  { name: 'back', keys: ['q'], title: 'Put filed mail back where it stood' },
  { name: 'due', keys: ['E'], title: 'Due at a day or a time', needs: 'when' },
  { name: 'park', keys: ['Z'], title: 'Park until a day or a time', needs: 'when' },
  { name: 'park-answer', keys: ['Q'], title: 'Park until somebody answers' },
  { name: 'done', keys: ['C'], title: 'Done: due no more, nothing owed' },
  { name: 'await', keys: ['S'], title: 'Reminder if nobody has answered by a time', needs: 'when' },
  { name: 'ask-again', keys: ['F'], title: 'Ask again, with the open question quoted' },
  { name: 'routine', keys: ['M'], title: 'Do a routine', needs: 'routine' },
  { name: 'try-out', keys: ['I'], title: 'Try out what is being written on mail that is here' },
  { name: 'decline', keys: ['H'], title: 'Decline the invitation' },
  { name: 'state-next', keys: ['.'], title: 'On to the next state of its queue' },
  { name: 'state-back', keys: [','], title: 'Back to the state before' },
  { name: 'flag', keys: ['b'], title: 'Flag, or take the flag away' },
  { name: 'seen', keys: ['m'], title: 'Mark read or unread' },
  { name: 'next', keys: ['j', 'ArrowDown'], title: 'Next message' },
  { name: 'previous', keys: ['k', 'ArrowUp'], title: 'Previous message' },
  { name: 'next-unread', keys: ['n'], title: 'Next unread message' },
  { name: 'open', keys: ['Enter'], title: 'Open the message and go to its text' },
  { name: 'whole', keys: ['v'], title: 'Read on the whole page, or beside the list' },
  { name: 'close', keys: ['Escape'], title: 'Close the message, clear the selection' },
  { name: 'select', keys: [' '], title: 'Select or deselect' },
  { name: 'extend-down', keys: ['Shift+ArrowDown', 'J'], title: 'Select and go to the next' },
  { name: 'extend-up', keys: ['Shift+ArrowUp', 'K'], title: 'Select and go to the previous' },
  { name: 'select-all', keys: ['Ctrl+a'], title: 'Select all of this place' },
  { name: 'select-sender', keys: ['z'], title: 'Select all from this sender' },
  { name: 'order', keys: ['o'], title: 'Order by importance or by time' },
  { name: 'unread-only', keys: ['h'], title: 'Show unread mail only, or all' },
  { name: 'pictures', keys: ['i'], title: 'Load the pictures of the message' },
  { name: 'write', keys: ['l'], title: 'Write a message' },
  { name: 'reply', keys: ['p'], title: 'Reply to the message' },
  { name: 'reply-all', keys: ['P'], title: 'Reply to all of the message' },
  { name: 'forward', keys: ['L'], title: 'Forward the message' },
  { name: 'short', keys: ['V'], title: 'The short of the message and its thread' },
  { name: 'standing-with', keys: ['='], title: 'Where things stand with who wrote it' },
  { name: 'reply-phrase', keys: ['G'], title: 'Reply with a phrase', needs: 'phrase' },
  { name: 'place-left', keys: ['ArrowLeft'], title: 'Bucket to the left' },
  { name: 'place-right', keys: ['ArrowRight'], title: 'Bucket to the right' },
  { name: 'search', keys: ['/'], title: 'Search' },
  { name: 'command', keys: [':'], title: 'Open the command line' },
  { name: 'help', keys: ['?'], title: 'Show the keys' },
  { name: 'guide', keys: [], title: 'Open the guide beside the page, or close it' },
  { name: 'evidence', keys: ['c'], title: 'Show all that weighs for and against, or the strongest alone' },
  { name: 'put', keys: [], title: 'Put in a bucket', needs: 'bucket' },
  { name: 'always', keys: [], title: 'Put this sender in a bucket, always', needs: 'bucket' },
  { name: 'go', keys: [], title: 'Go to a place', needs: 'place' },
  { name: 'find', keys: [], title: 'Find with a search line', needs: 'line' },
  { name: 'find-sender', keys: [], title: 'Find mail from a sender', needs: 'sender' },
  { name: 'find-date', keys: [], title: 'Find mail of this place before a date', needs: 'date' },
  { name: 'save-search', keys: [], title: 'Save this search', needs: 'name' },
  { name: 'find-tag', keys: [], title: 'Find mail with a tag', needs: 'tag' },
  { name: 'new-folder', keys: [], title: 'Make a folder', needs: 'name' },
  { name: 'make-routine', keys: [], title: 'Make a routine, tried on the open message' },
  { name: 'reading-side', keys: [], title: 'Read beside the list, below it, or on a page of its own' },
  { name: 'density', keys: [], title: 'Rows of one line or of two' },
  { name: 'theme', keys: [], title: 'Change the theme' },
] as const satisfies readonly Described[]

/** The name of an action. */
export type ActionName = (typeof TABLE)[number]['name']

export interface Action extends Described {
  name: ActionName
}

export const ACTIONS: readonly Action[] = TABLE

export const PUTS = ['put-0', 'put-1', 'put-2', 'put-3', 'put-4'] as const

/** The action that puts mail in a place of the band, by its number from the left; none beyond the fifth. */
export function putAction(number: number): ActionName | undefined {
  return PUTS[number]
}

/** Keys by action where the owner chose other ones. */
export type Chosen = Partial<Record<ActionName, string[]>>

/** The keys of an action. */
export function keysOf(action: Action, chosen: Chosen): readonly string[] {
  return chosen[action.name] ?? action.keys
}

/** The chosen keys with one key given to an action; whoever had it loses it. */
export function assigned(chosen: Chosen, name: ActionName, key: string): Chosen {
  const next: Chosen = { ...chosen }
  for (const action of ACTIONS) {
    const keys = keysOf(action, chosen)
    if (action.name === name) next[name] = [key]
    else if (keys.includes(key)) next[action.name] = keys.filter((one) => one !== key)
  }
  return next
}

const NAMES: Record<string, string> = {
  ' ': 'Space',
  ArrowDown: '↓',
  ArrowUp: '↑',
  ArrowLeft: '←',
  ArrowRight: '→',
  Escape: 'Esc',
}

/** How a key is written on the screen. */
export function keyName(key: string): string {
  const [, modifier, plain] = /^((?:Ctrl|Shift)\+)?(.+)$/.exec(key) ?? []
  return (modifier ?? '') + (NAMES[plain ?? key] ?? plain ?? key)
}

const CONTROLS = 'button, a, summary, [role="menuitem"], [role="tab"]'
const WRITING = 'input:not([type="checkbox"]), textarea, select, [contenteditable="true"]'

/** The key of an event as the table writes it: the typed character, or a named key with what is held down. */
export function keyOf(event: KeyboardEvent): string {
  if (event.ctrlKey || event.metaKey) return `Ctrl+${event.key.toLowerCase()}`
  return event.shiftKey && event.key.length > 1 ? `Shift+${event.key}` : event.key
}

/** The key that is pressed to do something. Empty while writing, and with Alt. */
export function pressed(event: KeyboardEvent, singleKeys: boolean): string {
  if (event.altKey || event.defaultPrevented || event.isComposing) return ''
  const target = event.target instanceof Element ? event.target : null
  if (target?.closest(WRITING) || target?.closest('[role="dialog"], .dropdown-menu')) return ''
  if ((event.key === ' ' || event.key === 'Enter') && target?.closest(CONTROLS)) return ''
  const key = keyOf(event)
  return !singleKeys && key.length === 1 && key !== ' ' ? '' : key
}

/** The action a key event stands for, if any. */
export function actionOf(event: KeyboardEvent, chosen: Chosen, singleKeys: boolean): Action | undefined {
  const key = pressed(event, singleKeys)
  return ACTIONS.find((action) => keysOf(action, chosen).includes(key))
}

/** The ten keys to begin with. */
export const FIRST_KEYS: readonly ActionName[] = [
  'next', 'previous', 'open', 'put-0', 'put-1', 'put-2', 'put-3', 'undo', 'search', 'command',
] // prettier-ignore

/** The actions that have keys, by what one is doing. */
export const GROUPS: readonly { title: string; names: readonly ActionName[] }[] = [
  {
    title: 'Say where mail belongs',
    names: [
      'put-0', 'put-1', 'put-2', 'put-3', 'put-4', 'weigh-up', 'weigh-down', 'reach', 'follow', 'refuse', 'undo',
      'second-move', 'second-leave', 'topic-yes', 'topic-no',
    ],
  },
  {
    title: 'Go through mail',
    names: [
      'next', 'previous', 'next-unread', 'open', 'whole', 'close', 'place-left', 'place-right', 'order', 'unread-only',
    ],
  },
  { title: 'Select', names: ['select', 'extend-down', 'extend-up', 'select-all', 'select-sender'] },
  {
    title: 'Put away, tag and mark',
    names: ['archive', 'archive-dealt', 'file', 'trash', 'back', 'tag', 'tag-away', 'untag', 'flag', 'seen'],
  },
  {
    title: 'Follow through',
    names: ['due', 'park', 'park-answer', 'done', 'await', 'ask-again', 'state-next', 'state-back'],
  },
  { title: 'Read', names: ['evidence', 'short', 'standing-with', 'pictures', 'decline'] },
  { title: 'Write', names: ['write', 'reply', 'reply-all', 'forward', 'reply-phrase'] },
  {
    title: 'Let it happen by itself',
    names: ['make-rule', 'rule-up', 'rule-down', 'try-out', 'routine', 'unsubscribe', 'leave-out'],
  },
  { title: 'Find', names: ['search', 'command', 'help'] },
] // prettier-ignore
