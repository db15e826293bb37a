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

function words(one: Offered): string {
  const count = one.messages.length
  return `${count} ${inPlace(one.place, titles.value)} ${count === 1 ? 'looks' : 'look'} like ${titles.value[one.target] ?? one.target} now`
}

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
      <p>{{ offers.map(words).join('; ') }}</p>
      <button type="button" class="quiet-button" :aria-expanded="opened" @click="opened = !opened">
        {{ opened ? 'Hide' : 'One by one' }}
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
      <template v-for="one in offers" :key="`${one.place} ${one.target}`">
        <li v-for="message in one.messages" :key="message.id" :data-second="message.id">
          <button type="button" class="second-open" @click="emit('open', message)">
            <bdi class="row-sender">{{ senderName(message) }}</bdi>
            <bdi class="row-subject">{{ subjectOf(message.subject) }}</bdi>
            <span class="row-time">{{ near(message.time) }}</span>
          </button>
          <button type="button" class="quiet-button" :disabled="busy" @click="move([message.id])">
            {{ titles[one.target] ?? one.target }}
          </button>
          <button type="button" class="quiet-button" :disabled="busy" @click="leave([message.id])">
            Leave
          </button>
        </li>
      </template>
    </ul>
  </section>
</template>
