<script setup lang="ts">
import { computed, nextTick, watch } from 'vue'
import type { TopicQuestion } from '../api/client'
import { useVerbs } from '../composables/actions'
import { useKeyed } from '../composables/keyed'
import { exact, near } from '../lib/time'
import { reasonWords } from '../lib/topics'
import { senderName, subjectOf } from '../lib/words'
import KeyCap from './KeyCap.vue'

const props = defineProps<{ asks: readonly TopicQuestion[]; busy: boolean }>()
const emit = defineEmits<{ answer: [asked: TopicQuestion, belongs: boolean] }>()

const ANSWERS = [
  ['Belongs', true, 'topic-yes'],
  ['Does not', false, 'topic-no'],
] as const
const rows = computed(() => props.asks.map((one) => ({ ...one, key: String(one.message.id) })))
const { currentKey, at, current, verbs } = useKeyed(rows)

watch(at, () =>
  nextTick(() => document.querySelector('.topic-ask.current')?.scrollIntoView({ block: 'nearest' })),
)

// Every answer orders what is asked anew: what is worth most stands first.
watch(
  () => rows.value.map((row) => row.key).join(' '),
  () => (currentKey.value = rows.value[0]?.key ?? ''),
)

function answer(belongs: boolean): void {
  if (current.value && !props.busy) emit('answer', current.value, belongs)
}

useVerbs({
  next: verbs.next,
  previous: verbs.previous,
  'topic-yes': () => answer(true),
  'topic-no': () => answer(false),
})
</script>

<template>
  <ul class="topic-asks" aria-label="What it asks">
    <li
      v-for="row in rows"
      :key="row.key"
      class="topic-ask"
      :class="{ current: row.key === currentKey }"
      :aria-current="row.key === currentKey ? 'true' : undefined"
      :data-ask="row.message.subject"
      @click="currentKey = row.key"
    >
      <div class="topic-mail">
        <span class="row-top">
          <bdi class="row-sender">{{ senderName(row.message) }}</bdi>
          <span class="row-time" :title="exact(row.message.time)">{{ near(row.message.time) }}</span>
        </span>
        <bdi class="row-subject">{{ subjectOf(row.message.subject) }}</bdi>
        <bdi class="topic-snippet">{{ row.message.snippet }}</bdi>
        <span class="topic-why">
          {{ row.reasons.map(reasonWords).join(' · ') || 'nothing speaks for it yet' }}
          <em v-if="row.drawn">drawn by lot</em>
        </span>
      </div>
      <span class="topic-answers">
        <button
          v-for="[said, belongs, act] in ANSWERS"
          :key="act"
          type="button"
          class="plain-button"
          :disabled="busy"
          @click.stop="emit('answer', row, belongs)"
        >
          {{ said }}<span class="visually-hidden">: {{ subjectOf(row.message.subject) }}</span
          >{{ ' ' }}
          <KeyCap v-if="row.key === currentKey" :of="act" />
        </button>
      </span>
    </li>
  </ul>
</template>
