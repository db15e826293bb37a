<script setup lang="ts">
import type { Bounds, Message, Place } from '../api/client'
import { useVerbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { appearance } from '../composables/settings'
import { useTags } from '../composables/tags'
import { useTeaching } from '../composables/teaching'
import { useTopics } from '../composables/topics'
import { near } from '../lib/time'
import { senderName, subjectOf } from '../lib/words'
import KeyCap from './KeyCap.vue'
import ScoreGauge from './ScoreGauge.vue'

const props = defineProps<{
  messages: readonly Message[]
  total: number
  takers: readonly Place[]
  bounds: Bounds
  openId: number
}>()
const emit = defineEmits<{ open: [message: Message]; put: [message: Message, place: string]; all: [] }>()

const SAID = [
  ['Yes', true],
  ['No', false],
] as const
const topics = useTopics()
const { byId } = useTags()
const teaching = useTeaching()
const { answer } = useAttempt(teaching.show)

function nameOf(topic: number): string {
  return byId.value.get(topics.all.value.find((one) => one.id === topic)?.tag ?? 0)?.name ?? 'The topic'
}

/** Answers what a topic asks; the message goes where it belongs then. */
async function say(message: Message, belongs: boolean): Promise<void> {
  const done = await answer(() => topics.say(message.topic, [message.id], belongs))
  if (done) teaching.tell(`${nameOf(message.topic)}: ${belongs ? 'yes' : 'no'}.`)
}

function sayOpen(belongs: boolean): void {
  const open = props.messages.find((one) => one.id === props.openId && one.topic)
  if (open) void say(open, belongs)
}
useVerbs({ 'topic-yes': () => sayOpen(true), 'topic-no': () => sayOpen(false) })

/** The two places the question is between; every other bucket is a key or a drag away. */
function answers(message: Message): Place[] {
  const asked = props.takers.filter((place) => message.between.includes(place.name))
  return asked.length
    ? asked
    : props.takers.filter((place) => place.important || place.name === message.likely)
}

/** Whether it is sure that a message can wait, and the question is only where. */
function canWait(message: Message): boolean {
  return message.between.length > 0 && !answers(message).some((place) => place.important)
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
      <span v-if="message.topic" class="call-answers">
        <span class="call-topic">{{ nameOf(message.topic) }}?</span>
        <button
          v-for="[said, belongs] in SAID"
          :key="said"
          type="button"
          class="call-answer"
          :title="belongs ? 'It belongs to the topic' : 'It does not belong to the topic'"
          @click="say(message, belongs)"
        >
          {{ said }} <KeyCap v-if="message.id === openId" :of="belongs ? 'topic-yes' : 'topic-no'" />
        </button>
      </span>
      <span v-else class="call-answers" :class="{ where: canWait(message) }">
        <span v-if="canWait(message)" class="call-topic">It can wait. Where?</span>
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
