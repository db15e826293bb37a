<script setup lang="ts">
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { client, unwrap, type Outcome } from '../api/client'
import { useVerbs, type Verbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { refreshLists } from '../composables/messages'
import { usePlaces } from '../composables/places'
import { PUTS } from '../lib/actions'
import { near } from '../lib/time'
import { inPlace, senderName, subjectOf } from '../lib/words'
import KeyCap from './KeyCap.vue'

const props = defineProps<{
  /** The id of the mailbox it asks about; without one it asks about all mail. */
  mailbox?: number
  /** What its last button does, in words. */
  next: string
}>()
const emit = defineEmits<{
  done: []
  /** There is nothing to ask from the start. */
  nothing: []
}>()

const queries = useQueryClient()
const { takers, titles, putOf, taker } = usePlaces()
const { problem, busy, attempt } = useAttempt()
const skipped = ref<number[]>([])
const follow = ref(true)
/** What the latest answer did, and the steps it made: its own, and the one in which other mail followed. */
const effect = ref('')
const steps = ref<number[]>([])

const { data: round } = useQuery({
  queryKey: computed(() => ['round', props.mailbox, [...skipped.value]]),
  queryFn: () =>
    unwrap(
      client.GET('/api/round', { params: { query: { mailbox: props.mailbox, skipped: skipped.value } } }),
    ),
  placeholderData: keepPreviousData,
})
const question = computed(() => round.value?.question ?? null)
watch(round, (now) => {
  if (now && !now.question && !effect.value && !skipped.value.length) emit('nothing')
})
const message = computed(() => question.value?.message)

function capitalised(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}

function effectOf(outcome: Outcome, place: string): string {
  const kin = outcome.kin_total
  const where = `It is ${inPlace(place, titles.value)}.`
  if (!kin) return where
  const words = kin === 1 ? '1 other message' : `${kin} other messages`
  return outcome.followed ? `${where} ${words} followed.` : `${where} ${words} would follow.`
}

function put(place: string): void {
  const asked = message.value
  if (!asked || busy.value) return
  void attempt(async () => {
    const body = {
      messages: [asked.id],
      belongs: place,
      reach: 'learn' as const,
      confirmed: false,
      instead: 0,
      follow: follow.value,
    }
    const outcome = await unwrap(client.POST('/api/verdicts', { body }))
    effect.value = effectOf(outcome, place)
    steps.value = outcome.followed ? [outcome.followed, outcome.step] : [outcome.step]
    await refresh()
  })
}

/** Takes the latest answer back, and what followed it first. */
function undo(): void {
  void attempt(async () => {
    for (const step of steps.value.splice(0))
      await unwrap(client.POST('/api/steps/{step}/undo', { params: { path: { step } } }))
    effect.value = 'Taken back.'
    await refresh()
  })
}

async function refresh(): Promise<void> {
  await queries.invalidateQueries({ queryKey: ['round'] })
  void queries.invalidateQueries({ queryKey: ['mailboxes', 'preview'] })
  refreshLists(queries)
}

function skip(): void {
  if (message.value && !busy.value) skipped.value.push(message.value.id)
}

const verbs: Verbs = { undo: () => steps.value.length && undo() }
PUTS.forEach((name, number) => {
  verbs[name] = () => {
    const place = taker(number)
    if (place) put(place.name)
  }
})
useVerbs(verbs)
</script>

<template>
  <section v-if="round" class="settings wide round" aria-label="First answers">
    <template v-if="message && question">
      <h2>Question {{ round.answered + 1 }} of {{ round.answers }}: where does this belong?</h2>
      <article class="round-message">
        <p class="round-who">
          <bdi class="round-sender">{{ senderName(message) }}</bdi>
          <span class="note">{{ near(message.time) }}</span>
        </p>
        <h3>
          <bdi>{{ subjectOf(message.subject) }}</bdi>
        </h3>
        <p class="round-text">
          <bdi>{{ message.snippet }}</bdi>
        </p>
        <p class="note">
          {{
            question.alike > 1
              ? `${question.alike} of your newest messages are of this ${message.list_id ? 'list' : 'sender'}.`
              : `The only one of your newest of this ${message.list_id ? 'list' : 'sender'}.`
          }}
          It stands {{ inPlace(message.place, titles) }} so far.
          <RouterLink :to="`/in/${message.place}/${message.id}`" target="_blank">Read it whole</RouterLink>
        </p>
      </article>
      <div class="round-answers" role="group" aria-label="It belongs in">
        <button
          v-for="place in takers"
          :key="place.name"
          type="button"
          class="verdict-button"
          :class="{ stands: place.name === message.place }"
          :disabled="busy"
          :data-put="place.name"
          @click="put(place.name)"
        >
          <KeyCap :of="putOf(place.name)" />{{ place.title }}
        </button>
        <button type="button" class="quiet-button" :disabled="busy" @click="skip">
          Pass over: it depends
        </button>
      </div>
    </template>
    <h2 v-else>
      {{ round.answered >= round.answers ? 'That teaches it a lot.' : 'There is no more to ask.' }}
    </h2>
    <p class="round-effect">
      <span role="status">{{ effect }}</span>
      <button v-if="steps.length" type="button" class="quiet-button" :disabled="busy" @click="undo">
        Undo <KeyCap of="undo" />
      </button>
    </p>
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <BFormCheckbox v-if="question" id="round-follow" v-model="follow"
      >Let other mail like it follow each answer (all of it stands in the journal, and can be
      undone)</BFormCheckbox
    >
    <p>
      <button type="button" :class="question ? 'plain-button' : 'strong-button'" @click="emit('done')">
        {{ question ? `Enough: ${next}` : capitalised(next) }}
      </button>
    </p>
  </section>
</template>
