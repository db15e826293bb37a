<script setup lang="ts">
import type { Message } from '../api/client'
import { exact, near } from '../lib/time'
import { senderName, subjectOf } from '../lib/words'
import ThreadText from './ThreadText.vue'

defineProps<{ message: Message; expanded: boolean }>()
const emit = defineEmits<{ toggle: []; open: [] }>()
</script>

<template>
  <li class="thread-part" :class="{ unread: !message.seen }">
    <button type="button" class="thread-button" :aria-expanded="expanded" @click="emit('toggle')">
      <bdi class="thread-who">{{ senderName(message) }}</bdi>
      <bdi class="thread-what">{{ message.snippet || subjectOf(message.subject) }}</bdi>
      <time :title="exact(message.time)">{{ near(message.time) }}</time>
    </button>
    <ThreadText v-if="expanded" :number="message.id" @open="emit('open')" />
  </li>
</template>
