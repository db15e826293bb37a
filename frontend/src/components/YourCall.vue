<script setup lang="ts">
import type { Message, Place } from '../api/client'
import { appearance } from '../composables/settings'
import { near } from '../lib/time'
import { senderName, subjectOf } from '../lib/words'
import ScoreGauge from './ScoreGauge.vue'

const props = defineProps<{
  messages: readonly Message[]
  total: number
  takers: readonly Place[]
  bounds: { ask: number; desk: number }
  openId: number
}>()
const emit = defineEmits<{ open: [message: Message]; put: [message: Message, place: string]; all: [] }>()

/** The two likeliest answers; every other bucket is a key or a drag away. */
function answers(message: Message): Place[] {
  return props.takers.filter((place) => place.important || place.name === message.likely)
}
</script>

<template>
  <section class="call" aria-label="Your call">
    <div class="call-head">
      <h2>Your call</h2>
      <span>where asking is cheaper than guessing</span>
      <button v-if="total > messages.length" type="button" class="quiet-button" @click="emit('all')">
        all {{ total }}
      </button>
    </div>
    <div
      v-for="message in messages"
      :key="message.id"
      class="call-row"
      :class="{
        open: message.id === openId,
        dense: appearance.density === 'one' || appearance.reading === 'below',
      }"
    >
      <button type="button" class="call-open" @click="emit('open', message)">
        <ScoreGauge
          :score="message.score"
          :low="message.low_edge"
          :high="message.high_edge"
          :bounds="bounds"
        />
        <span class="call-text">
          <span class="row-top">
            <bdi class="row-sender">{{ senderName(message) }}</bdi>
            <span class="row-time">{{ near(message.time) }}</span>
          </span>
          <bdi class="row-subject">{{ subjectOf(message.subject) }}</bdi>
        </span>
      </button>
      <span class="call-answers">
        <button
          v-for="place in answers(message)"
          :key="place.name"
          type="button"
          class="call-answer"
          :title="`Put in ${place.title}`"
          @click="emit('put', message, place.name)"
        >
          {{ place.title }}
        </button>
      </span>
    </div>
  </section>
</template>
