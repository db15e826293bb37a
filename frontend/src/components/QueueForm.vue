<script setup lang="ts">
import { computed } from 'vue'
import type { QueueGiven } from '../api/client'
import { usePlaces } from '../composables/places'
import { useTags } from '../composables/tags'
import { useTrays } from '../composables/trays'
import { moved } from '../lib/order'

/** A queue as it is written. */
const queue = defineModel<QueueGiven>({ required: true })
defineProps<{ kept: boolean; busy: boolean; problem: string }>()
const emit = defineEmits<{ keep: []; back: []; remove: [] }>()

const MOST = 9
const { takers } = usePlaces()
const { all: tags } = useTags()
const { trays } = useTrays()
const choices = computed(() => [
  ...takers.value.map((one) => ({ value: `bucket ${one.name}`, title: `the bucket ${one.title}` })),
  ...trays.value
    .filter((one) => one.kind === 'line')
    .map((one) => ({ value: `tray ${one.name}`, title: `the tray ${one.name}` })),
  ...tags.value.map((one) => ({ value: `tag ${one.id}`, title: `the tag ${one.name}` })),
])
const chosen = computed({
  get: () => `${queue.value.of} ${queue.value.target}`,
  set: (value) => {
    const [of = 'bucket', ...rest] = value.split(' ')
    queue.value = { ...queue.value, of: of as QueueGiven['of'], target: rest.join(' ') }
  },
})

function name(at: number, text: string): void {
  const states = queue.value.states.map((one, index) => (index === at ? { ...one, name: text } : one))
  queue.value = { ...queue.value, states }
}

function states(next: QueueGiven['states']): void {
  queue.value = { ...queue.value, states: next }
}
</script>

<template>
  <form class="rule-form queue-form" aria-label="A queue" @submit.prevent="emit('keep')">
    <div class="rule-part">
      <label class="rule-step" for="queue-name">Name</label>
      <input
        id="queue-name"
        :value="queue.name"
        class="form-control"
        maxlength="40"
        autocomplete="off"
        @input="queue = { ...queue, name: ($event.target as HTMLInputElement).value }"
      />
    </div>
    <div class="rule-part">
      <label class="rule-step" for="queue-of">Mail of</label>
      <select id="queue-of" v-model="chosen" class="form-select">
        <option v-for="one in choices" :key="one.value" :value="one.value">{{ one.title }}</option>
      </select>
    </div>
    <div class="rule-part">
      <span class="rule-step">States</span>
      <div>
        <ol class="rule-actions">
          <li v-for="(state, at) in queue.states" :key="at">
            <input
              :value="state.name"
              class="form-control"
              maxlength="40"
              :aria-label="`State ${at + 1}`"
              @input="name(at, ($event.target as HTMLInputElement).value)"
            />
            <button
              v-if="at > 1"
              type="button"
              class="quiet-button"
              @click="states(moved(queue.states, at, at - 1))"
            >
              Up
            </button>
            <button
              v-if="at && queue.states.length > 2"
              type="button"
              class="quiet-button"
              :aria-label="`Remove state ${at + 1}`"
              @click="states(queue.states.filter((_, index) => index !== at))"
            >
              Remove
            </button>
            <span v-if="!at" class="note">where all of it stands at first</span>
          </li>
        </ol>
        <button
          v-if="queue.states.length < MOST"
          type="button"
          class="quiet-button rule-more"
          @click="states([...queue.states, { name: '', tag: 0 }])"
        >
          Another state
        </button>
      </div>
    </div>
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <p class="phrase-acts">
      <button
        type="submit"
        class="strong-button"
        data-act="keep-queue"
        :disabled="busy || !queue.name.trim()"
      >
        Save
      </button>
      <button type="button" class="quiet-button" @click="emit('back')">Cancel</button>
      <button v-if="kept" type="button" class="quiet-button" @click="emit('remove')">Remove the queue</button>
    </p>
    <p class="note">Each state behind the first is a tag: a keyword on servers, found by a search.</p>
  </form>
</template>
