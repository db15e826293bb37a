<script setup lang="ts">
import { computed } from 'vue'
import type { Doing, RuleAction } from '../api/client'
import { usePlaces } from '../composables/places'
import { useTags } from '../composables/tags'

/** What a rule does, in order. */
const actions = defineModel<RuleAction[]>({ required: true })
const props = defineProps<{ doings: readonly Doing[] }>()

const { takers, folders } = usePlaces()
const { all: tags } = useTags()
const offered = computed<Record<string, { value: string; title: string }[]>>(() => ({
  bucket: takers.value.map((one) => ({ value: one.name, title: one.title })),
  folder: folders.value.map((one) => ({ value: one.name, title: one.title })),
  tag: tags.value.map((one) => ({ value: String(one.id), title: one.name })),
}))

function takes(verb: string): string {
  return props.doings.find((one) => one.verb === verb)?.takes ?? ''
}

function set(at: number, change: Partial<RuleAction>): void {
  actions.value = actions.value.map((one, index) => (index === at ? { ...one, ...change } : one))
}

function choose(at: number, verb: RuleAction['verb']): void {
  set(at, { verb, target: offered.value[takes(verb)]?.[0]?.value ?? '' })
}

function add(): void {
  const used = actions.value.map((one) => one.verb)
  const next = (['tag', 'flag', 'read', 'no-edition', 'stop'] as const).find((one) => !used.includes(one))
  actions.value = [...actions.value, { verb: next ?? 'tag', target: '' }]
  if (next) choose(actions.value.length - 1, next)
}

function take(at: number): void {
  actions.value = actions.value.filter((_, index) => index !== at)
}
</script>

<template>
  <ol class="rule-actions">
    <li v-for="(one, at) in actions" :key="at">
      <select
        :value="one.verb"
        class="form-select"
        :aria-label="`What is done, ${at + 1}`"
        @change="choose(at, ($event.target as HTMLSelectElement).value as RuleAction['verb'])"
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
        aria-label="When, told from its arrival"
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
        :aria-label="`Leave out what is done, ${at + 1}`"
        @click="take(at)"
      >
        Leave out
      </button>
    </li>
  </ol>
  <button type="button" class="quiet-button rule-more" @click="add">And more</button>
</template>
