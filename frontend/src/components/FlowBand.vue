<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Place } from '../api/client'

const props = defineProps<{ band: readonly Place[]; current: string }>()
const emit = defineEmits<{ go: [place: string]; drop: [place: string] }>()

const over = ref('')
const depth = (number: number) => `depth-${Math.min(number, 5)}`
const grow = (place: Place) => Math.max(1, Math.sqrt(place.total))
const whole = computed(() => props.band.reduce((sum, place) => sum + place.total, 0) || 1)
const share = (place: Place) => `${((100 * place.total) / whole.value).toFixed(3)}%`

function dropped(place: Place): void {
  over.value = ''
  if (place.key) emit('drop', place.name)
}
</script>

<template>
  <header class="band">
    <h1 class="visually-hidden">Mail</h1>
    <nav class="band-row" aria-label="Buckets">
      <button
        v-for="(place, number) in band"
        :key="place.name"
        type="button"
        class="band-segment"
        :class="[depth(number), { here: place.name === current, over: place.name === over }]"
        :style="{ flexGrow: grow(place) }"
        :aria-current="place.name === current ? 'page' : undefined"
        :data-place="place.name"
        @click="emit('go', place.name)"
        @dragover.prevent="over = place.key ? place.name : ''"
        @dragleave="over = ''"
        @drop.prevent="dropped(place)"
      >
        <span class="band-name">{{ place.title }}</span>
        <kbd v-if="place.key" class="band-key">{{ place.key }}</kbd>
        <span class="band-count" :title="`${place.unread} unread of ${place.total}`">{{ place.unread }}</span>
        <span class="visually-hidden">unread of {{ place.total }}</span>
      </button>
    </nav>
    <div class="band-strip" aria-hidden="true">
      <span
        v-for="(place, number) in band"
        :key="place.name"
        :class="depth(number)"
        :style="{ width: share(place) }"
      />
    </div>
  </header>
</template>
