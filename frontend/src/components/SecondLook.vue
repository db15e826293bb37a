<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { client, unwrap, type Message, type Offered } from '../api/client'
import { useVerbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { refreshLists } from '../composables/messages'
import { usePlaces } from '../composables/places'
import { useTeaching } from '../composables/teaching'
import { near } from '../lib/time'
import { inPlace, senderName, subjectOf } from '../lib/words'
import KeyCap from './KeyCap.vue'

const emit = defineEmits<{ open: [message: Message] }>()

const KEY = ['second-look']
const queries = useQueryClient()
const { titles } = usePlaces()
const teaching = useTeaching()
const { answer, busy } = useAttempt(teaching.show)
const { data } = useQuery({
  queryKey: KEY,
  queryFn: (): Promise<Offered[]> => unwrap(client.GET('/api/second-look')),
})
const offers = computed(() => data.value ?? [])
const ids = computed(() => offers.value.flatMap((one) => one.messages.map((message) => message.id)))
const opened = ref(false)

/** What is offered altogether, by where it stands and where it looks like belonging. */
const summary = computed(() => {
  const counts = new Map<string, [Offered, number]>()
  for (const one of offers.value) {
    const key = `${one.place} ${one.target}`
    counts.set(key, [one, (counts.get(key)?.[1] ?? 0) + one.messages.length])
  }
  return [...counts.values()].map(
    ([one, count]) =>
      `${count} ${inPlace(one.place, titles.value)} ${count === 1 ? 'looks' : 'look'} like ${titles.value[one.target] ?? one.target} now`,
  )
})

interface Line {
  first: Message
  ids: number[]
  text: string
  reason: string
  target: string
}

/** A line for each sender or list: what is offered of it, and why. */
const lines = computed((): Line[] =>
  offers.value.flatMap((one) => {
    const first = one.messages[0]
    if (!first) return []
    const several = one.messages.length > 1 ? `${one.messages.length} messages, the surest: ` : ''
    const lessons = one.lessons === 1 ? '1 lesson' : `${one.lessons} lessons`
    return [
      {
        first,
        ids: one.messages.map((message) => message.id),
        text: several + subjectOf(first.subject),
        reason: one.lessons
          ? `${lessons} about this ${first.list_id ? 'list' : 'sender'}`
          : 'What you taught of other mail',
        target: titles.value[one.target] ?? one.target,
      },
    ]
  }),
)

async function done(): Promise<void> {
  await queries.invalidateQueries({ queryKey: KEY })
  refreshLists(queries)
}

async function move(those: readonly number[]): Promise<void> {
  if (!those.length || busy.value) return
  const body = { messages: [...those] }
  const step = await answer(() => unwrap(client.POST('/api/second-look/moved', { body })))
  if (step) teaching.tell(`${step.title}.`)
  await done()
}

async function leave(those: readonly number[]): Promise<void> {
  if (!those.length || busy.value) return
  const body = { messages: [...those] }
  await answer(() => unwrap(client.POST('/api/second-look/left', { body })))
  await done()
}

useVerbs({ 'second-move': () => move(ids.value), 'second-leave': () => leave(ids.value) })
</script>

<template>
  <section v-if="ids.length" class="second" aria-label="A second look">
    <div class="second-head">
      <p>{{ summary.join('; ') }}</p>
      <button type="button" class="quiet-button" :aria-expanded="opened" @click="opened = !opened">
        {{ opened ? 'Hide' : 'By sender' }}
      </button>
      <button type="button" class="plain-button" data-act="second-move" :disabled="busy" @click="move(ids)">
        Move {{ ids.length === 1 ? 'it' : 'all' }}
        <KeyCap of="second-move" />
      </button>
      <button type="button" class="quiet-button" data-act="second-leave" :disabled="busy" @click="leave(ids)">
        Leave <KeyCap of="second-leave" />
      </button>
    </div>
    <ul v-if="opened">
      <li v-for="one in lines" :key="one.first.id" :data-second="one.first.id">
        <button type="button" class="second-open" @click="emit('open', one.first)">
          <bdi class="row-sender">{{ senderName(one.first) }}</bdi>
          <bdi class="row-subject">{{ one.text }}</bdi>
          <span class="row-time">{{ near(one.first.time) }}</span>
          <span class="second-reason">{{ one.reason }}</span>
        </button>
        <button type="button" class="quiet-button" :disabled="busy" @click="move(one.ids)">
          {{ one.target }}
        </button>
        <button type="button" class="quiet-button" :disabled="busy" @click="leave(one.ids)">Leave</button>
      </li>
    </ul>
  </section>
</template>
