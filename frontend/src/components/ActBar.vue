<script setup lang="ts">
import { run } from '../composables/actions'
import type { ActionName } from '../lib/actions'
import KeyCap from './KeyCap.vue'

/** What can be done with the line that is at hand: each by its action, with its key. */
defineProps<{ label: string; acts: readonly (readonly [ActionName, string])[] }>()
</script>

<template>
  <div class="follow-acts" role="group" :aria-label="label">
    <button
      v-for="[name, title] in acts"
      :key="name"
      type="button"
      class="plain-button"
      :data-act="name"
      @click="run(name)"
    >
      {{ title }} <KeyCap :of="name" />
    </button>
  </div>
</template>
