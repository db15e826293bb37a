<script setup lang="ts">
import { watch } from 'vue'
import { useRoute } from 'vue-router'
import { useLatest } from '../composables/arranged'
import { useTeaching } from '../composables/teaching'
import KeyCap from './KeyCap.vue'

const route = useRoute()
const { latest, dismiss } = useLatest()
const { undo } = useTeaching()
watch(() => route.path, dismiss)
</script>

<template>
  <div v-if="latest" class="notice" role="group" aria-label="What was arranged">
    <p>
      <bdi role="status">{{ latest.title }}.</bdi>
      <button
        v-if="latest.step"
        type="button"
        class="plain-button"
        data-act="undo"
        @click="undo(latest.step)"
      >
        Undo <KeyCap of="undo" />
      </button>
      <button type="button" class="quiet-button" @click="dismiss">Done</button>
    </p>
  </div>
</template>
