<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import type { Place } from '../api/client'
import { keyFor, run } from '../composables/actions'
import { usePlaces } from '../composables/places'
import { appearance } from '../composables/settings'

const props = defineProps<{
  band: readonly Place[]
  current: string
  /** Trays that are places of their own, and the one that is looked at. */
  trays?: readonly { name: string; total: number; unread: number }[]
  tray?: string
  /** How many messages are due today or overdue. */
  due?: number
}>()
const emit = defineEmits<{ go: [place: string]; tray: [name: string] }>()

const LEAST = 98
/** Buckets that stand in the band before any tray takes their room. */
const BUCKETS = 5
const over = ref('')
const row = useTemplateRef<HTMLElement>('row')
const { width } = useElementSize(row)
const depth = (place: Place) => `depth-${Math.min(props.band.indexOf(place), 5)}`
const grow = (place: Place) => Math.max(1, Math.sqrt(place.total))
const whole = computed(() => props.band.reduce((sum, place) => sum + place.total, 0) || 1)
const share = (place: Place) => `${((100 * place.total) / whole.value).toFixed(3)}%`
const countOf = (one: { total: number; unread: number }) =>
  appearance.value.counts === 'all' ? one.total : one.unread
const { putOf } = usePlaces()
const keyOf = (place: Place) => (place.takes ? keyFor(putOf(place.name)) : '')

/** How many segments there is room for; those of the buckets come before those of trays. */
const segments = computed(() => Math.max(2, Math.floor(width.value / LEAST)))
const besides = computed(() => {
  const all = props.trays ?? []
  const room = width.value ? Math.max(0, segments.value - Math.min(props.band.length, BUCKETS)) : all.length
  if (all.length <= room) return all
  const first = all.slice(0, room)
  const here = all.find((one) => one.name === props.tray)
  return room && here && !first.includes(here) ? [...first.slice(0, -1), here] : first
})
/** The places there is room for, the current one always among them; the others go in a menu. */
const fitting = computed(() => {
  const room = width.value ? Math.max(2, segments.value - besides.value.length) : props.band.length
  if (props.band.length <= room) return [...props.band]
  const first = props.band.slice(0, room - 1)
  const here = props.band.find((place) => place.name === props.current)
  return here && !first.includes(here) ? [...first.slice(0, -1), here] : first
})
const rest = computed(() => props.band.filter((place) => !fitting.value.includes(place)))
const restTrays = computed(() => (props.trays ?? []).filter((one) => !besides.value.includes(one)))

function dropped(place: Place): void {
  over.value = ''
  if (place.takes) run('drop', place.name)
}
</script>

<template>
  <header class="band">
    <h1 class="visually-hidden">Mail</h1>
    <div ref="row" class="band-row">
      <nav class="band-segments" aria-label="Buckets">
        <button
          v-for="place in fitting"
          :key="place.name"
          type="button"
          class="band-segment"
          :class="[depth(place), { here: place.name === current && !tray, over: place.name === over }]"
          :style="{ flexGrow: grow(place) }"
          :aria-current="place.name === current && !tray ? 'page' : undefined"
          :data-place="place.name"
          @click="emit('go', place.name)"
          @dragover.prevent="over = place.takes ? place.name : ''"
          @dragleave="over = ''"
          @drop.prevent="dropped(place)"
        >
          <span class="band-name" :title="place.title">{{ place.title }}</span>
          <kbd v-if="keyOf(place)" class="band-key">{{ keyOf(place) }}</kbd>
          <span class="band-count" :title="`${place.unread} unread of ${place.total}`">{{
            countOf(place)
          }}</span>
          <span v-if="place.name === 'desk' && due" class="band-due" title="Due today or overdue"
            >{{ due }} due</span
          >
          <span class="visually-hidden">{{
            appearance.counts === 'all' ? `messages, ${place.unread} unread` : `unread of ${place.total}`
          }}</span>
        </button>
      </nav>
      <nav v-if="besides.length" class="band-trays" aria-label="Trays">
        <button
          v-for="one in besides"
          :key="one.name"
          type="button"
          :class="{ here: one.name === tray }"
          :aria-current="one.name === tray ? 'page' : undefined"
          :data-band-tray="one.name"
          :title="`${one.name}: ${one.unread} unread of ${one.total}`"
          @click="emit('tray', one.name)"
        >
          <bdi>{{ one.name }}</bdi>
          <span class="band-count">{{ countOf(one) }}</span>
        </button>
      </nav>
      <BDropdown
        v-if="rest.length || restTrays.length"
        class="band-rest"
        size="sm"
        variant="link"
        :text="`${rest.length + restTrays.length} more`"
        no-caret
      >
        <BDropdownItem v-for="place in rest" :key="place.name" @click="emit('go', place.name)">
          {{ place.title }} <span class="count">{{ countOf(place) }}</span>
        </BDropdownItem>
        <BDropdownItem v-for="one in restTrays" :key="one.name" @click="emit('tray', one.name)">
          {{ one.name }} <span class="count">{{ countOf(one) }}</span>
        </BDropdownItem>
      </BDropdown>
    </div>
    <div class="band-strip" aria-hidden="true">
      <span v-for="place in band" :key="place.name" :class="depth(place)" :style="{ width: share(place) }" />
    </div>
  </header>
</template>
