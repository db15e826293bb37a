import { nextTick, onMounted, onUnmounted } from 'vue'

/** Gives the keyboard to an element of a component that opens, and back to where it was once the component closes. */
export function useFocus(first: () => HTMLElement | null | undefined): void {
  const before = document.activeElement
  // What closes at the same time gives the keyboard back first.
  onMounted(() => nextTick(() => first()?.focus()))
  onUnmounted(() => {
    const back = before?.isConnected ? before : document.getElementById('main')
    if (back instanceof HTMLElement) back.focus()
  })
}
