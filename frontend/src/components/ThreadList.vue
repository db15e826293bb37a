<script setup lang="ts">
import type { Message } from '../api/client'
import ThreadPart from './ThreadPart.vue'

defineProps<{ messages: readonly Message[]; expanded: ReadonlySet<number> }>()
const emit = defineEmits<{ toggle: [message: Message]; open: [number: number] }>()
</script>

<template>
  <ol v-if="messages.length" class="thread">
    <li v-if="$slots.before"><slot name="before" /></li>
    <ThreadPart
      v-for="one in messages"
      :key="one.id"
      :message="one"
      :expanded="expanded.has(one.id)"
      @toggle="emit('toggle', one)"
      @open="emit('open', one.id)"
    />
  </ol>
</template>
