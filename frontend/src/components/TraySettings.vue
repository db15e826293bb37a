<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Tray } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { appearance } from '../composables/settings'
import { useSavedSearches } from '../composables/search'
import { tagLine, useTags } from '../composables/tags'
import { useTrays } from '../composables/trays'
import { moved } from '../lib/order'

const emit = defineEmits<{ said: [text: string] }>()

const KINDS: Record<Tray['kind'], string> = {
  due: 'Due and back',
  came: 'Came since you were last here',
  waits: 'Waits for your answer',
  colleagues: 'Your colleagues',
  line: 'What a search finds',
  rest: 'The rest',
  dealt: 'Dealt with',
}
const SINGLE: Tray['kind'][] = ['due', 'came', 'waits', 'colleagues', 'rest', 'dealt']
const { trays, put, reset } = useTrays()
const { all: tags } = useTags()
const { saved } = useSavedSearches()
const { attempt, busy, problem } = useAttempt()
const dragged = ref(-1)

/** What can be added: each ready-made kind that is not there, and a tray for any tag or saved search. */
const offered = computed(() => [
  ...SINGLE.filter((kind) => !trays.value.some((one) => one.kind === kind)).map((kind) => ({
    title: KINDS[kind],
    tray: fresh(kind, KINDS[kind]),
  })),
  { title: KINDS.line, tray: fresh('line', 'A search', 'mark:flagged') },
  ...tags.value.map((tag) => ({
    title: `Tag: ${tag.name}`,
    tray: fresh('line', tag.name, tagLine(tag.name)),
  })),
  ...saved.value.map((one) => ({ title: `Search: ${one.name}`, tray: fresh('line', one.name, one.line) })),
])

function fresh(kind: Tray['kind'], name: string, line = ''): Tray {
  return { kind, name, line, order: 'importance', rows: 20, folded: kind === 'dealt', days: 3, beside: false }
}

async function say(next: readonly Tray[]): Promise<void> {
  if (await attempt(() => put(next))) emit('said', 'Saved.')
}

async function asTheyCame(): Promise<void> {
  if (await attempt(reset)) emit('said', 'The trays are as they came.')
}

function set(at: number, change: Partial<Tray>): void {
  void say(trays.value.map((one, index) => (index === at ? { ...one, ...change } : one)))
}

function move(from: number, to: number): void {
  void say(moved(trays.value, from, to))
}

function add(event: Event): void {
  const field = event.target as HTMLSelectElement
  const one = offered.value[Number(field.value)]
  field.value = ''
  if (!one) return
  // One list gets the rest with its first tray, so that no mail is hidden.
  const rest = one.tray.kind !== 'rest' && !trays.value.some((other) => other.kind === 'rest')
  void say([one.tray, ...trays.value, ...(rest ? [fresh('rest', KINDS.rest)] : [])])
}

const value = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <section class="settings settings-trays" aria-label="Trays of the Desk">
    <h2>Trays of the Desk</h2>
    <p>
      The Desk in parts, from the top. A message stands in the first tray that takes it; what is dealt with
      stands last. One beside the band is a place of its own there. Without trays the Desk is one list.
    </p>
    <p v-if="problem" class="rule-broken" role="alert">{{ problem }}</p>
    <ol class="tray-list">
      <li
        v-for="(one, at) in trays"
        :key="`${at} ${one.kind}`"
        :data-tray-row="one.name"
        draggable="true"
        @dragstart="dragged = at"
        @dragover.prevent
        @drop.prevent="move(dragged, at)"
      >
        <span class="tray-grip" title="Drag to put it elsewhere" />
        <input
          class="form-control"
          :value="one.name"
          maxlength="60"
          :aria-label="`Name of ${one.name}`"
          @change="set(at, { name: value($event) })"
        />
        <input
          v-if="one.kind === 'line'"
          class="form-control"
          :value="one.line"
          :aria-label="`Search line of ${one.name}`"
          @change="set(at, { line: value($event) })"
        />
        <span v-else class="note"
          ><template v-if="one.name !== KINDS[one.kind]">{{ KINDS[one.kind] }}</template>
          <label v-if="one.kind === 'dealt'"
            >answered, or read and left for
            <input
              type="number"
              class="form-control tray-number"
              min="1"
              max="365"
              :value="one.days"
              aria-label="Days"
              @change="set(at, { days: Number(value($event)) })"
            />
            days</label
          ></span
        >
        <span class="tray-fields">
          <select
            class="form-select"
            :value="one.order"
            :aria-label="`Order of ${one.name}`"
            @change="set(at, { order: value($event) as Tray['order'] })"
          >
            <option value="importance">by importance</option>
            <option value="time">newest first</option>
          </select>
          <label>
            <input
              type="number"
              class="form-control tray-number"
              min="1"
              max="200"
              :value="one.rows"
              :aria-label="`Rows of ${one.name}`"
              @change="set(at, { rows: Number(value($event)) })"
            />
            rows
          </label>
          <label>
            <input type="checkbox" :checked="one.folded" @change="set(at, { folded: !one.folded })" /> folded
          </label>
          <label v-if="one.kind !== 'rest'">
            <input type="checkbox" :checked="one.beside" @change="set(at, { beside: !one.beside })" /> beside
            the band
          </label>
          <button type="button" class="quiet-button" :disabled="busy || !at" @click="move(at, at - 1)">
            Up
          </button>
          <button
            type="button"
            class="quiet-button"
            :disabled="busy || at === trays.length - 1"
            @click="move(at, at + 1)"
          >
            Down
          </button>
          <button
            type="button"
            class="quiet-button"
            :disabled="busy"
            :aria-label="`Remove ${one.name}`"
            @click="say(trays.filter((_, index) => index !== at))"
          >
            Remove
          </button>
        </span>
      </li>
    </ol>
    <p>
      <label>
        <input v-model="appearance.emptyTrays" type="checkbox" />
        A tray with nothing in it takes one line
      </label>
    </p>
    <p class="tray-adding">
      <select class="form-select" aria-label="Add a tray" @change="add">
        <option value="">Add a tray</option>
        <option v-for="(one, index) in offered" :key="one.title" :value="index">{{ one.title }}</option>
      </select>
      <button v-if="trays.length" type="button" class="quiet-button" :disabled="busy" @click="say([])">
        One list, no trays
      </button>
      <button type="button" class="quiet-button" :disabled="busy" @click="asTheyCame">As they came</button>
    </p>
  </section>
</template>
