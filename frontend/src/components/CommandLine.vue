<script setup lang="ts">
import { onClickOutside } from '@vueuse/core'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { useFocus } from '../composables/focus'
import { asking, keyFor, possible, run } from '../composables/actions'
import { useCombobox } from '../composables/combobox'
import { timedFor, useOfferedTimes, useTime } from '../composables/following'
import { usePhrases } from '../composables/phrases'
import { usePlaces } from '../composables/places'
import { useUnderstood } from '../composables/search'
import { useRoutines } from '../composables/routines'
import { carried, useTags } from '../composables/tags'
import { keyName, type Action, type ActionName, type Need } from '../lib/actions'
import { TO_GO } from '../pages'
import { matching } from '../lib/fuzzy'
import MonthPicker from './MonthPicker.vue'

interface Choice {
  value: string
  shown: string
  about: string
}

const PLACES_TO_GO: Choice[] = TO_GO.map((one) => ({ value: one.name, shown: one.title, about: '' }))
const MOST_SHOWN = 60
const DATES = ['today', 'yesterday', '1w', '2w', '1m', '6m', '1y']
const PROMPTS: Record<Need, string> = {
  tag: 'which tag, or a new name',
  carried: 'which tag',
  bucket: 'which bucket',
  folder: 'which folder, or a new name',
  place: 'where',
  sender: 'a name or an address',
  date: 'a day, or how long ago',
  when: 'fri 14:00, in 3 days, end of month',
  phrase: 'which phrase',
  routine: 'which routine',
  line: 'a search line',
  name: 'a name',
}

const { band, quiet, folders, takers } = usePlaces()
const { all: tags } = useTags()
const typed = ref('')
const panel = useTemplateRef<HTMLElement>('panel')
const field = useTemplateRef<HTMLInputElement>('field')
const action = computed<Action | undefined>(() => asking.value?.action)
const timing = computed(() => action.value?.needs === 'when')
const offered = useOfferedTimes(timing)
const { understood, problem } = useTime(computed(() => (timing.value ? typed.value : '')))
const { all: phrases } = usePhrases(timedFor)
const { all: routines } = useRoutines()
const beginning = (text: string) => text.replace(/\s+/g, ' ').slice(0, MOST_SHOWN)
const senders = useUnderstood(computed(() => (action.value?.needs === 'sender' ? `from:${typed.value}` : '')))

const places = computed<Choice[]>(() =>
  [...band.value, ...quiet.value, ...folders.value].map((one) => ({
    value: one.name,
    shown: one.title,
    about: `${one.total}`,
  })),
)
/** The tag or folder that would be made of what is typed, where there is none of that name. */
function fresh(known: readonly string[], about: string): Choice[] {
  const name = typed.value.trim().replace(/\s+/g, ' ')
  const there = known.some((one) => one.toLowerCase() === name.toLowerCase())
  return name && !there ? [{ value: name, shown: name, about }] : []
}
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
  if (needs === 'place') return named([...places.value, ...PLACES_TO_GO])
  if (needs === 'folder') {
    const own = folders.value.map((one) => one.name)
    const known = places.value.filter(
      (one) => own.includes(one.value) || ['archive', 'trash'].includes(one.value),
    )
    const titles = places.value.map((one) => one.shown)
    return [...named(known), ...fresh(titles, 'a new folder')]
  }
  if (needs === 'tag' || needs === 'carried') {
    const those = needs === 'tag' ? tags.value : tags.value.filter((one) => carried.value.includes(one.id))
    const known = named(those.map((one) => ({ value: one.name, shown: one.name, about: `${one.total}` })))
    const names = tags.value.map((one) => one.name)
    return needs === 'tag' && action.value?.name !== 'find-tag'
      ? [...known, ...fresh(names, 'a new tag')]
      : known
  }
  if (needs === 'routine')
    return named(
      routines.value.map((one) => ({ value: String(one.id), shown: one.name, about: keyName(one.key) })),
    )
  if (needs === 'phrase')
    return named(
      phrases.value.map((one) => ({ value: one.short, shown: one.short, about: beginning(one.text) })),
    )
  if (needs === 'when') {
    const typedOne = understood.value
      ? [{ value: typed.value.trim(), shown: typed.value.trim(), about: understood.value }]
      : []
    const known = offered.value
      .filter((one) => one.said !== typed.value.trim())
      .map((one) => ({ value: one.said, shown: one.words || one.said, about: one.shown }))
    return typed.value.trim() ? [...typedOne, ...named(known)] : known
  }
  if (needs === 'date') return named(DATES.map((one) => ({ value: one, shown: one, about: '' })))
  if (needs === 'sender') {
    return (senders.value?.suggestions ?? []).map((one) => ({
      value: one.shown.replace(/^from:/, ''),
      shown: one.about,
      about: one.shown.replace(/^from:/, ''),
    }))
  }
  return []
})
const free = computed(() => ['date', 'when', 'line', 'name', 'sender'].includes(action.value?.needs ?? ''))
const label = computed(() =>
  action.value ? `${action.value.title}: ${PROMPTS[action.value.needs ?? 'name']}` : 'Command',
)

watch(action, () => {
  typed.value = ''
})
const { at, chosen, key, field: offering, list, option } = useCombobox(choices, { take, close, first: 0 })

watch(
  at,
  (now) => void nextTick(() => document.getElementById(option(now).id)?.scrollIntoView({ block: 'nearest' })),
)
useFocus(() => field.value)
onClickOutside(panel, close)

function close(): void {
  asking.value = null
}

function take(choice: Choice | undefined): void {
  const needing = action.value
  if (!needing) {
    if (!choice) return
    close()
    run(choice.value as ActionName)
    return
  }
  const value = choice?.value ?? (free.value ? typed.value.trim() : '')
  if (!value) return
  close()
  run(needing.name, value)
}

/** Up and down go through the choices; what was typed counts where no choice fits. Tab stays in the field. */
function press(event: KeyboardEvent): void {
  if (event.key === 'Tab') event.preventDefault()
  else if (event.key !== 'Escape' && key(event)) return
  else if (event.key === 'Enter') {
    event.preventDefault()
    take(chosen.value)
  }
}
</script>

<template>
  <div ref="panel" class="command" role="dialog" aria-label="Command line" @keydown.esc.stop="close">
    <ul v-if="choices.length" class="command-list" v-bind="list" :aria-label="label">
      <li
        v-for="(choice, index) in choices"
        :key="choice.value"
        v-bind="option(index)"
        @click="take(choice)"
        @mousemove="at = index"
      >
        <bdi>{{ choice.shown }}</bdi>
        <kbd v-if="!action && choice.about">{{ choice.about }}</kbd>
        <span v-else class="command-about">{{ choice.about }}</span>
      </li>
    </ul>
    <MonthPicker v-if="timing" @pick="(said) => take({ value: said, shown: said, about: '' })" />
    <p v-if="!choices.length && problem" class="command-none" role="alert">{{ problem }}</p>
    <p v-else-if="!choices.length && typed && !free" class="command-none">Nothing is called that.</p>
    <label class="command-line">
      <span class="command-prompt">{{ action ? label : ':' }}</span>
      <input ref="field" v-model="typed" type="text" v-bind="offering" :aria-label="label" @keydown="press" />
      <kbd>Esc</kbd>
    </label>
  </div>
</template>
