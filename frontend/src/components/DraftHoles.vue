<script setup lang="ts">
import { computed } from 'vue'
import { askOf, filledIn, holesIn, optionsOf } from '../lib/phrases'

/** What is left to fill in a text that a phrase was put into: chosen by a button, or written. */
const text = defineModel<string>({ required: true })

const holes = computed(() => holesIn(text.value))

function fill(hole: string, value: string): void {
  if (value.trim()) text.value = filledIn(text.value, hole, value.trim())
}
</script>

<template>
  <ul v-if="holes.length" class="draft-holes" aria-label="Still to fill">
    <li v-for="hole in holes" :key="hole" :data-hole="hole">
      <template v-if="optionsOf(hole).length">
        <button
          v-for="option in optionsOf(hole)"
          :key="option"
          type="button"
          class="plain-button"
          @click="fill(hole, option)"
        >
          {{ option }}
        </button>
      </template>
      <label v-else
        >{{ askOf(hole) }}
        <input
          autocomplete="off"
          @keydown.enter.prevent="fill(hole, ($event.target as HTMLInputElement).value)"
          @change="fill(hole, ($event.target as HTMLInputElement).value)"
      /></label>
    </li>
  </ul>
</template>
