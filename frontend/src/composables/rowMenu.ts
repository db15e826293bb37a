// The menu of a row or of the open message: what it is about, and where it stands on the page.
import { ref, shallowRef } from 'vue'
import type { DraftKind, Message } from '../api/client'
import type { ActionName } from '../lib/actions'

export interface MenuAt {
  /** The row it was opened on; null where it is about what is open or selected. */
  message: Message | null
  x: number
  y: number
}

/** What is begun by answering a message from its menu, opened or not. */
export const ANSWERS: Partial<Record<ActionName, DraftKind>> = {
  reply: 'reply',
  'reply-all': 'reply_all',
  forward: 'forward',
}

export const menuAt = shallowRef<MenuAt | null>(null)
/** How many pages show the menu: without one, the browser's own menu stays. */
const hosts = ref(0)
const BELOW = 4

export function hostsMenu(): () => void {
  hosts.value++
  return () => {
    hosts.value--
    menuAt.value = null
  }
}

/** Opens the menu where the mouse is, or below what was pressed. */
export function openMenu(event: MouseEvent, message: Message | null): void {
  if (!hosts.value) return
  event.preventDefault()
  event.stopPropagation()
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const byMouse = event.type === 'contextmenu' && (event.clientX || event.clientY)
  menuAt.value = byMouse
    ? { message, x: event.clientX, y: event.clientY }
    : { message, x: box.right, y: box.bottom + BELOW }
}
