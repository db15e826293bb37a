// The keys, as data: what is bound, what help and docs show. They match the typed character.
export interface KeyBinding {
  action: string
  keys: string[]
  title: string
}

export const KEYS: KeyBinding[] = [
  { action: 'put-0', keys: ['a'], title: 'Put in the first place of the band (Desk)' },
  { action: 'put-1', keys: ['s'], title: 'Put in the second (Shelf)' },
  { action: 'put-2', keys: ['d'], title: 'Put in the third (Digest)' },
  { action: 'put-3', keys: ['f'], title: 'Put in the fourth (Drain)' },
  { action: 'put-4', keys: ['g'], title: 'Put in the first bucket of your own' },
  { action: 'reach', keys: ['e'], title: 'Change how far the next lesson reaches' },
  { action: 'follow', keys: ['y'], title: 'Let the kin of the last lesson follow' },
  { action: 'undo', keys: ['u'], title: 'Undo the latest step' },
  { action: 'next', keys: ['j', 'ArrowDown'], title: 'Next message' },
  { action: 'previous', keys: ['k', 'ArrowUp'], title: 'Previous message' },
  { action: 'open', keys: ['Enter'], title: 'Open the message and go to its text' },
  { action: 'close', keys: ['Escape'], title: 'Close the message, clear the selection' },
  { action: 'select', keys: [' '], title: 'Select or deselect' },
  { action: 'seen', keys: ['m'], title: 'Mark read or unread' },
  { action: 'order', keys: ['o'], title: 'Order by importance or by time' },
  { action: 'place-left', keys: ['ArrowLeft'], title: 'Bucket to the left' },
  { action: 'place-right', keys: ['ArrowRight'], title: 'Bucket to the right' },
  { action: 'help', keys: ['?'], title: 'Show the keys' },
]

/** How a key is written on the screen. */
export function keyName(key: string): string {
  const names: Record<string, string> = {
    ' ': 'Space',
    ArrowDown: '↓',
    ArrowUp: '↑',
    ArrowLeft: '←',
    ArrowRight: '→',
    Escape: 'Esc',
  }
  return names[key] ?? key
}

const BY_KEY = new Map(KEYS.flatMap((binding) => binding.keys.map((key) => [key, binding.action] as const)))
const CONTROLS = 'button, a, summary, [role="option"], [role="menuitem"], [role="tab"]'
const WRITING = 'input, textarea, select, [contenteditable="true"]'

/** The action a key event stands for, or an empty string. Never while writing, or with Ctrl, Alt or Meta. */
export function actionOf(event: KeyboardEvent, singleKeys: boolean): string {
  if (event.ctrlKey || event.altKey || event.metaKey || event.defaultPrevented) return ''
  const target = event.target instanceof Element ? event.target : null
  if (target?.closest(WRITING) || target?.closest('[role="dialog"], .dropdown-menu')) return ''
  if ((event.key === ' ' || event.key === 'Enter') && target?.closest(CONTROLS)) return ''
  if (!singleKeys && event.key.length === 1 && event.key !== ' ') return ''
  return BY_KEY.get(event.key) ?? ''
}
