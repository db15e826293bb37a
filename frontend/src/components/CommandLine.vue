<script setup lang="ts">
import { onClickOutside } from '@vueuse/core'
import { computed, nextTick, onMounted, onUnmounted, ref, useTemplateRef, watch } from 'vue'
import { asking, keyFor, possible, run } from '../composables/actions'
import { usePlaces } from '../composables/places'
import { useUnderstood } from '../composables/search'
import type { Action, Need } from '../lib/actions'
import { matching } from '../lib/fuzzy'

interface Choice {
  value: string
  shown: string
  about: string
}

const PAGES: Choice[] = [
  { value: 'search', shown: 'Search', about: '' },
  { value: 'journal', shown: 'Journal', about: '' },
  { value: 'bring-in', shown: 'Bring in', about: '' },
  { value: 'settings', shown: 'Settings', about: '' },
]
const DATES = ['today', 'yesterday', '1w', '2w', '1m', '6m', '1y']
const PROMPTS: Record<Need, string> = {
  bucket: 'which bucket',
  folder: 'which folder',
  place: 'where',
  sender: 'a name or an address',
  date: 'a day, or how long ago',
  line: 'a search line',
  name: 'a name',
}

const { band, quiet, folders, takers } = usePlaces()
const typed = ref('')
const at = ref(0)
const panel = useTemplateRef<HTMLElement>('panel')
const field = useTemplateRef<HTMLInputElement>('field')
const action = computed<Action | undefined>(() => asking.value?.action)
const understood = useUnderstood(
  computed(() => (action.value?.needs === 'sender' ? `from:${typed.value}` : '')),
)
const before = document.activeElement instanceof HTMLElement ? document.activeElement : null

const places = computed<Choice[]>(() =>
  [...band.value, ...quiet.value, ...folders.value].map((one) => ({
    value: one.name,
    shown: one.title,
    about: `${one.total}`,
  })),
)
const choices = computed<Choice[]>(() => {
  const needs = action.value?.needs
  if (!needs) {
    return matching(typed.value, possible.value, (one) => one.title).map((one) => ({
      value: one.name,
      shown: one.title,
      about: keyFor(one.name),
    }))
  }
  const named = (all: Choice[]) => matching(typed.value, all, (one) => one.shown)
  if (needs === 'bucket')
    return named(takers.value.map((one) => ({ value: one.name, shown: one.title, about: '' })))
  if (needs === 'place') return named([...places.value, ...PAGES])
  if (needs === 'folder') {
    const own = folders.value.map((one) => one.name)
    return named(
      places.value.filter((one) => own.includes(one.value) || ['archive', 'trash'].includes(one.value)),
    )
  }
  if (needs === 'date') return named(DATES.map((one) => ({ value: one, shown: one, about: '' })))
  if (needs === 'sender') {
    return (understood.value?.suggestions ?? []).map((one) => ({
      value: one.shown.replace(/^from:/, ''),
      shown: one.about,
      about: one.shown.replace(/^from:/, ''),
    }))
  }
  return []
})
const free = computed(() => ['date', 'line', 'name', 'sender'].includes(action.value?.needs ?? ''))
const label = computed(() =>
  action.value ? `${action.value.title}: ${PROMPTS[action.value.needs ?? 'name']}` : 'Command',
)

watch(typed, () => (at.value = 0))
watch(action, () => {
  typed.value = ''
  at.value = 0
})
watch(
  at,
  () =>
    void nextTick(() => document.getElementById(`choice-${at.value}`)?.scrollIntoView({ block: 'nearest' })),
)
onMounted(() => field.value?.focus())
onUnmounted(() => before?.focus())
onClickOutside(panel, close)

function close(): void {
  asking.value = null
}

function take(choice: Choice | undefined): void {
  const needing = action.value
  if (!needing) {
    if (!choice) return
    close()
    run(choice.value)
    return
  }
  const value = choice?.value ?? (free.value ? typed.value.trim() : '')
  if (!value) return
  close()
  run(needing.name, value)
}

/** Up and down go through the choices; what was typed counts where no choice fits. */
function go(by: number): void {
  at.value = Math.min(choices.value.length - 1, Math.max(0, at.value + by))
}
</script>

<template>
  <div ref="panel" class="command" role="dialog" aria-label="Command line" @keydown.esc.stop="close">
    <ul v-if="choices.length" id="choices" class="command-list" role="listbox" :aria-label="label">
      <li
        v-for="(choice, index) in choices"
        :id="`choice-${index}`"
        :key="choice.value"
        role="option"
        :aria-selected="index === at"
        @click="take(choice)"
        @mousemove="at = index"
      >
        <bdi>{{ choice.shown }}</bdi>
        <kbd v-if="!action && choice.about">{{ choice.about }}</kbd>
        <span v-else class="command-about">{{ choice.about }}</span>
      </li>
    </ul>
    <p v-else-if="typed && !free" class="command-none">Nothing is called that.</p>
    <label class="command-line">
      <span class="command-prompt">{{ action ? label : ':' }}</span>
      <input
        ref="field"
        v-model="typed"
        type="text"
        role="combobox"
        autocomplete="off"
        spellcheck="false"
        aria-autocomplete="list"
        aria-controls="choices"
        :aria-label="label"
        :aria-expanded="choices.length > 0"
        :aria-activedescendant="choices.length ? `choice-${at}` : undefined"
        @keydown.down.prevent="go(1)"
        @keydown.up.prevent="go(-1)"
        @keydown.enter.prevent="take(choices[at])"
        @keydown.tab.prevent
      />
      <kbd>Esc</kbd>
    </label>
  </div>
</template>
