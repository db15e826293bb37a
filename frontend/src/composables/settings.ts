// What the owner likes to see, kept in this browser.
import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { computed, watchEffect } from 'vue'
import type { Order } from '../api/client'

export type Theme = 'auto' | 'light' | 'dark'

export const theme = useLocalStorage<Theme>('hieranome-theme', 'auto')
export const singleKeys = useLocalStorage('hieranome-single-keys', true)
export const order = useLocalStorage<Order>('hieranome-order', 'importance')

/** Keeps the page's theme at what is wished. */
export function useTheme(): void {
  const dark = usePreferredDark()
  const wanted = computed(() => (theme.value === 'auto' ? (dark.value ? 'dark' : 'light') : theme.value))
  watchEffect(() => document.documentElement.setAttribute('data-bs-theme', wanted.value))
}
