<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { client, unwrap } from '../api/client'
import { usePlaces } from '../composables/places'
import { useTeaching } from '../composables/teaching'
import { bytes, exact, near } from '../lib/time'
import { decidedWords, likelihood, senderName, subjectOf } from '../lib/words'
import EvidenceBalance from './EvidenceBalance.vue'
import ScoreGauge from './ScoreGauge.vue'

const props = defineProps<{ number: number }>()
const emit = defineEmits<{ open: [number: number]; close: [] }>()

const queries = useQueryClient()
const { bounds, titles } = usePlaces()
const { say } = useTeaching()
const path = computed(() => ({ params: { path: { number: props.number } } }))
const { data, error, isPending } = useQuery({
  queryKey: computed(() => ['opened', props.number]),
  queryFn: () => unwrap(client.GET('/api/messages/{number}', path.value)),
  staleTime: 0,
})
const { data: thread } = useQuery({
  queryKey: computed(() => ['thread', props.number]),
  queryFn: () => unwrap(client.GET('/api/messages/{number}/thread', path.value)),
})
const others = computed(() => (thread.value ?? []).filter((one) => one.id !== props.number))
const frame = ref<HTMLIFrameElement | null>(null)
const frameHeight = ref('320px')
const low = computed(() => [...(data.value?.low ?? [])].sort((a, b) => b.share - a.share))
const people = (list: { name: string; address: string }[]) =>
  list.map((one) => one.name || one.address).join(', ')
const verified = computed(() => {
  const results = data.value?.authentication.join(' ') ?? ''
  if (/\b(dkim|spf|dmarc)=fail/.test(results)) return 'sender not confirmed: a check failed'
  return /\bdkim=pass/.test(results) ? 'the receiving server confirmed the sender (DKIM)' : ''
})

watch(
  () => props.number,
  () => (frameHeight.value = '320px'),
)

async function vouch(): Promise<void> {
  try {
    const body = { kind: 'address' as const, message: props.number, key: '' }
    const one = await unwrap(client.POST('/api/vouched', { body }))
    say(`${one.name || one.key} is vouched for: new mail from there stays on the Desk.`)
    await queries.invalidateQueries({ queryKey: ['opened'] })
    await queries.invalidateQueries({ queryKey: ['vouched'] })
  } catch (problem) {
    say((problem as Error).message)
  }
}

function fit(): void {
  const inside = frame.value?.contentDocument?.documentElement
  if (inside) frameHeight.value = `${Math.min(20_000, inside.scrollHeight + 8)}px`
}
</script>

<template>
  <article class="reading" aria-label="Open message" :data-number="data ? number : undefined">
    <p v-if="error" class="reading-error" role="alert">{{ error.message }}</p>
    <p v-else-if="isPending" class="reading-wait">Opening</p>
    <template v-else-if="data">
      <header class="reading-head">
        <div class="reading-title">
          <h2 dir="auto" :title="data.message.subject">{{ subjectOf(data.message.subject) }}</h2>
          <button type="button" class="quiet-button" aria-label="Close the message" @click="emit('close')">
            Close
          </button>
        </div>
        <p class="reading-who">
          <bdi class="reading-sender">{{ senderName(data.message) }}</bdi>
          <span v-if="data.sender.name" class="reading-address">&lt;{{ data.sender.address }}&gt;</span>
          <span v-if="data.to.length">
            to <bdi>{{ people(data.to) }}</bdi></span
          >
          <span v-if="data.cc.length"
            >, copy to <bdi>{{ people(data.cc) }}</bdi></span
          >
          <span> · </span><time :title="exact(data.message.time)">{{ near(data.message.time) }}</time>
          <span v-if="verified"> · {{ verified }}</span>
          <span v-if="data.message.list_id"> · list {{ data.message.list_id }}</span>
          <span v-if="data.vouched"> · vouched for</span>
          <button
            v-else-if="data.sender.address && data.message.decided_by !== 'own'"
            type="button"
            class="quiet-button reading-vouch"
            title="Its mail stays on the Desk from now on, unless it proves forged"
            @click="vouch"
          >
            Vouch for this sender
          </button>
        </p>
        <ul v-if="data.warnings.length" class="reading-warnings" aria-label="Warnings">
          <li v-for="warning in data.warnings" :key="warning">{{ warning }}</li>
        </ul>
      </header>
      <div v-if="data.message.decided_by !== 'own'" class="reading-score">
        <ScoreGauge
          large
          :score="data.message.score"
          :low="data.message.low_edge"
          :high="data.message.high_edge"
          :bounds="bounds"
        />
      </div>
      <p v-if="data.message.decided_by !== 'own'" class="reading-low">
        <span>If it does not matter now: </span>
        <span v-for="(one, index) in low" :key="one.place" class="low-share">
          <template v-if="index">, </template>{{ likelihood(one.share) }} {{ titles[one.place] ?? one.place }}
        </span>
        <span v-if="decidedWords(data.message)" class="reading-decided">
          {{ decidedWords(data.message) }}</span
        >
      </p>
      <EvidenceBalance
        v-if="data.message.decided_by !== 'own'"
        :lines="data.evidence"
        :log-odds="data.log_odds"
        :titles="titles"
      />
      <p v-if="data.defects.length" class="reading-defects">Odd about it: {{ data.defects.join(', ') }}.</p>
      <ul v-if="data.parts.length" class="reading-parts" aria-label="Attachments">
        <li v-for="part in data.parts" :key="part.path">
          <a :href="`/api/messages/${number}/parts/${part.path}`" download>{{
            part.name || part.media_type
          }}</a>
          <span>{{ part.media_type }}, {{ bytes(part.size) }}</span>
        </li>
      </ul>
      <p v-if="data.blocked" class="reading-blocked">
        {{ data.blocked }} {{ data.blocked === 1 ? 'picture' : 'pictures' }} from elsewhere not loaded.
      </p>
      <iframe
        v-if="data.has_html"
        ref="frame"
        class="reading-frame"
        :class="{ tall: true }"
        :style="{ height: frameHeight }"
        :src="`/api/messages/${number}/html`"
        sandbox="allow-same-origin allow-popups allow-popups-to-escape-sandbox"
        title="Text of the message"
        @load="fit"
      />
      <div v-else class="reading-text" dir="auto" tabindex="-1">{{ data.text || '(no text)' }}</div>
      <section v-if="others.length" class="reading-thread" aria-label="Thread">
        <h3>Also in this thread</h3>
        <ul>
          <li v-for="one in others" :key="one.id">
            <button type="button" class="thread-button" @click="emit('open', one.id)">
              <bdi class="thread-who">{{ senderName(one) }}</bdi>
              <bdi class="thread-what">{{ one.snippet || subjectOf(one.subject) }}</bdi>
              <time :title="exact(one.time)">{{ near(one.time) }}</time>
            </button>
          </li>
        </ul>
      </section>
      <p class="reading-foot">
        <a :href="`/api/messages/${number}/source`" download>Source of the message</a>
        <span>{{ bytes(data.message.size) }}</span>
      </p>
    </template>
  </article>
</template>
