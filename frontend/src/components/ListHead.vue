<script setup lang="ts">
import type { Place } from '../api/client'
import { order } from '../composables/settings'

defineProps<{ place?: Place; picked: number; unreadOnly: boolean }>()
const emit = defineEmits<{ clear: []; unread: [only: boolean] }>()
</script>

<template>
  <div class="list-head">
    <h2>{{ place?.title ?? 'Mail' }}</h2>
    <span v-if="picked" class="list-picked">
      {{ picked }} selected
      <button type="button" class="quiet-button" @click="emit('clear')">clear</button>
    </span>
    <span v-else class="list-count">{{ place?.total ?? 0 }} messages, {{ place?.unread ?? 0 }} unread</span>
    <label class="list-order">
      <span class="visually-hidden">What is shown</span>
      <select
        :value="unreadOnly"
        title="What is shown"
        @change="emit('unread', ($event.target as HTMLSelectElement).value === 'true')"
      >
        <option :value="false">all</option>
        <option :value="true">unread</option>
      </select>
    </label>
    <label>
      <span class="visually-hidden">Order</span>
      <select v-model="order" title="Order">
        <option value="importance">by importance</option>
        <option value="time">newest first</option>
      </select>
    </label>
  </div>
</template>
