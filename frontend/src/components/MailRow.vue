<script setup lang="ts">
import { computed } from 'vue'
import type { Message } from '../api/client'
import { shown } from '../lib/gauge'
import { exact, near } from '../lib/time'
import { senderName, subjectOf } from '../lib/words'
import ScoreGauge from './ScoreGauge.vue'

const props = defineProps<{
  message: Message
  bounds: { ask: number; desk: number }
  open: boolean
  selected: boolean
}>()
const emit = defineEmits<{ open: []; select: [] }>()

const marks = computed(() => {
  const one = props.message
  return [
    one.answered ? 'answered' : '',
    one.flagged ? 'flagged' : '',
    one.attachments ? `${one.attachments} att.` : '',
    one.readable ? '' : 'unreadable',
  ].filter(Boolean)
})

function click(event: MouseEvent): void {
  if (event.ctrlKey || event.metaKey) emit('select')
  else emit('open')
}
</script>

<template>
  <div
    class="row-mail"
    role="option"
    :aria-selected="selected"
    :aria-current="open ? 'true' : undefined"
    :class="{ open, selected, unread: !message.seen }"
    :data-message="message.id"
    draggable="true"
    @click="click"
  >
    <ScoreGauge :score="message.score" :low="message.low_edge" :high="message.high_edge" :bounds="bounds" />
    <span class="row-score" aria-hidden="true">{{ shown(message.score) }}</span>
    <span class="row-text">
      <span class="row-top">
        <bdi class="row-sender">{{ senderName(message) }}</bdi>
        <time class="row-time" :title="exact(message.time)">{{ near(message.time) }}</time>
      </span>
      <span class="row-bottom">
        <span v-if="selected" class="row-picked">selected</span>
        <bdi class="row-subject">{{ subjectOf(message.subject) }}</bdi>
        <bdi class="row-snippet">{{ message.snippet }}</bdi>
        <span v-if="marks.length" class="row-marks">{{ marks.join(' · ') }}</span>
      </span>
      <span v-if="!message.seen" class="visually-hidden">unread</span>
    </span>
  </div>
</template>
