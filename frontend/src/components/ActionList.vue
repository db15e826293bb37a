<script setup lang="ts" generic="V extends string">
import { computed, nextTick, ref } from 'vue'
import { usePhrases } from '../composables/phrases'
import { usePlaces } from '../composables/places'
import { useTags } from '../composables/tags'
import { moved } from '../lib/order'

interface Action {
  verb: V
  target: string
}

/** What is done, in order. */
const actions = defineModel<Action[]>({ required: true })
const props = defineProps<{
  doings: readonly { verb: V; title: string; takes: string }[]
  /** From when times are told. */
  from: string
}>()

const { takers, folders } = usePlaces()
const { all: tags } = useTags()
const { all: phrases } = usePhrases()
const dragged = ref(-1)
const over = ref(-1)
const list = ref<HTMLElement>()
const offered = computed<Record<string, { value: string; title: string }[]>>(() => ({
  bucket: takers.value.map((one) => ({ value: one.name, title: one.title })),
  folder: folders.value.map((one) => ({ value: one.name, title: one.title })),
  tag: tags.value.map((one) => ({ value: String(one.id), title: one.name })),
  phrase: phrases.value.map((one) => ({ value: String(one.id), title: one.short })),
}))

function takes(verb: V): string {
  return props.doings.find((one) => one.verb === verb)?.takes ?? ''
}

function set(at: number, change: Partial<Action>): void {
  actions.value = actions.value.map((one, index) => (index === at ? { ...one, ...change } : one))
}

/** Something done, with the first of what it can need. */
function begun(verb: V): Action {
  return { verb, target: offered.value[takes(verb)]?.[0]?.value ?? '' }
}

/** Adds what is not done yet and needs to know nothing that is not there. */
function add(): void {
  const used = actions.value.map((one) => one.verb)
  const fits = (takes: string) => takes === 'tag' || takes === ''
  const next = props.doings.find((one) => !used.includes(one.verb) && fits(one.takes)) ?? props.doings[0]
  if (next) actions.value = [...actions.value, begun(next.verb)]
}

function take(at: number): void {
  actions.value = actions.value.filter((_, index) => index !== at)
}

function dropped(to: number): void {
  if (dragged.value >= 0) actions.value = moved(actions.value, dragged.value, to)
  dragged.value = over.value = -1
}

/** Moves with the arrows what stands at a handle, and the handle's focus with it. */
async function shift(at: number, by: number): Promise<void> {
  actions.value = moved(actions.value, at, at + by)
  await nextTick()
  list.value?.querySelectorAll<HTMLElement>('.action-handle')[at + by]?.focus()
}
</script>

<template>
  <ol ref="list" class="rule-actions">
    <li
      v-for="(one, at) in actions"
      :key="at"
      :class="{ over: over === at }"
      @dragover.prevent="over = at"
      @dragleave="over = -1"
      @drop.prevent="dropped(at)"
    >
      <button
        v-if="actions.length > 1"
        type="button"
        class="action-handle"
        draggable="true"
        :aria-label="`Move what is done, ${at + 1}: with the arrows up and down`"
        title="Drag it, or move it with the arrows"
        @dragstart="dragged = at"
        @keydown.up.prevent.stop="shift(at, -1)"
        @keydown.down.prevent.stop="shift(at, 1)"
      >
        {{ at + 1 }}
      </button>
      <select
        :value="one.verb"
        class="form-select"
        :aria-label="`What is done, ${at + 1}`"
        @change="set(at, begun(($event.target as HTMLSelectElement).value as V))"
      >
        <option v-for="doing in doings" :key="doing.verb" :value="doing.verb">{{ doing.title }}</option>
      </select>
      <input
        v-if="takes(one.verb) === 'address'"
        :value="one.target"
        type="email"
        class="form-control"
        aria-label="Address"
        placeholder="name@domain"
        @input="set(at, { target: ($event.target as HTMLInputElement).value.trim() })"
      />
      <input
        v-else-if="takes(one.verb) === 'time'"
        :value="one.target"
        class="form-control"
        :aria-label="`When, counted from ${from}`"
        placeholder="in 3 days"
        @input="set(at, { target: ($event.target as HTMLInputElement).value })"
      />
      <select
        v-else-if="takes(one.verb)"
        :value="one.target"
        class="form-select"
        :aria-label="`Which ${takes(one.verb)}`"
        @change="set(at, { target: ($event.target as HTMLSelectElement).value })"
      >
        <option v-if="!offered[takes(one.verb)]?.length" value="">there is none yet</option>
        <option v-for="choice in offered[takes(one.verb)]" :key="choice.value" :value="choice.value">
          {{ choice.title }}
        </option>
      </select>
      <button
        v-if="actions.length > 1"
        type="button"
        class="quiet-button"
        :aria-label="`Remove action ${at + 1}`"
        @click="take(at)"
      >
        Remove
      </button>
    </li>
  </ol>
  <button type="button" class="quiet-button rule-more" @click="add">Add an action</button>
</template>
