<script setup lang="ts">
import type { Offered } from '../composables/subscriptions'

/** The way by which a subscription can be ended, whole: a message with all it says, a page with its address. */
defineProps<{ offer: Offered | undefined }>()
</script>

<template>
  <p class="about-way-words">{{ offer?.words ?? 'There is no way to unsubscribe. Refuse it.' }}</p>
  <dl v-if="offer?.way === 'mailto'" class="about-letter">
    <dt>To</dt>
    <dd>
      <bdi>{{ offer.target }}</bdi>
    </dd>
    <dt>Subject</dt>
    <dd>
      <bdi>{{ offer.subject }}</bdi>
    </dd>
    <dt>Text</dt>
    <dd>
      <bdi>{{ offer.text || 'nothing' }}</bdi>
    </dd>
  </dl>
  <a v-else-if="offer?.way === 'link'" :href="offer.target" target="_blank" rel="noopener noreferrer"
    ><bdi>{{ offer.target }}</bdi></a
  >
</template>
