// A field with a list of choices below it (WAI-ARIA combobox): which is chosen, the keys, the attributes of both.
import { computed, ref, useId, watch, type Ref } from 'vue'

interface Wishes<T> {
  /** Takes a choice. */
  take: (one: T) => void
  /** What Escape does while choices are offered. */
  close: () => void
  /** The choice that stands chosen at first: -1 for none. */
  first?: number
}

export function useCombobox<T>(choices: Ref<readonly T[]>, { take, close, first = -1 }: Wishes<T>) {
  const id = useId()
  const at = ref(first)
  const chosen = computed<T | undefined>(() => choices.value[at.value])

  watch(choices, () => (at.value = first))

  function move(by: number): void {
    at.value = Math.min(choices.value.length - 1, Math.max(first, at.value + by))
  }

  function takeChosen(one: T): void {
    at.value = first
    take(one)
  }

  /** Acts on a key of the field; tells whether it was one of the list's. What is typed lets go of what was chosen. */
  function key(event: KeyboardEvent): boolean {
    if (!choices.value.length) return false
    if (event.key === 'ArrowDown') move(1)
    else if (event.key === 'ArrowUp') move(-1)
    else if (event.key === 'Escape') close()
    else if ((event.key === 'Enter' || event.key === 'Tab') && chosen.value !== undefined)
      takeChosen(chosen.value)
    else {
      if (event.key.length === 1 || event.key === 'Backspace') at.value = first
      return false
    }
    event.preventDefault()
    return true
  }

  const field = computed(() => ({
    role: 'combobox',
    autocomplete: 'off',
    spellcheck: false,
    'aria-autocomplete': 'list' as const,
    'aria-expanded': choices.value.length > 0,
    'aria-controls': `${id}-list`,
    'aria-activedescendant': chosen.value === undefined ? undefined : `${id}-${at.value}`,
  }))
  const list = { id: `${id}-list`, role: 'listbox' }
  const option = (index: number) => ({
    id: `${id}-${index}`,
    role: 'option',
    'aria-selected': index === at.value,
  })

  return { at, chosen, key, field, list, option }
}
