<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { client, unwrap, type Message } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { usePlaces } from '../composables/places'
import { useTeaching } from '../composables/teaching'
import { near } from '../lib/time'
import { inPlace, senderName, subjectOf } from '../lib/words'

const emit = defineEmits<{ open: [message: Message] }>()

const KEY = ['rules', 'hidden']
const queries = useQueryClient()
const { titles } = usePlaces()
const teaching = useTeaching()
const { attempt, busy } = useAttempt(teaching.show)
const { data: hidden } = useQuery({ queryKey: KEY, queryFn: () => unwrap(client.GET('/api/rules/hidden')) })
const opened = ref(false)

const again = () => queries.invalidateQueries({ queryKey: KEY })

async function toDesk(message: Message): Promise<void> {
  await teaching.put({ ids: [message.id], rows: [message], place: message.place }, 'desk')
  await again()
}

async function unread(message: Message): Promise<void> {
  await teaching.mark({ ids: [message.id], rows: [message], place: message.place }, 'unread')
  await again()
}

async function leave(messages: readonly Message[]): Promise<void> {
  const body = { messages: messages.map((one) => one.id) }
  await attempt(() => unwrap(client.POST('/api/second-look/left', { body })))
  await again()
}
</script>

<template>
  <section v-if="hidden?.length" class="second rules-hid" aria-label="What rules hid">
    <div class="second-head">
      <p>
        {{
          hidden.length === 1
            ? 'A rule hid one message that looks'
            : `Rules hid ${hidden.length} messages that look`
        }}
        like the Desk
      </p>
      <button type="button" class="plain-button" :aria-expanded="opened" @click="opened = !opened">
        {{ opened ? 'Hide' : 'Show' }}
      </button>
      <button
        type="button"
        class="quiet-button"
        :disabled="busy"
        @click="leave(hidden.map((one) => one.message))"
      >
        Leave {{ hidden.length === 1 ? 'it' : 'all' }} there
      </button>
    </div>
    <ul v-if="opened">
      <li v-for="{ rule, name, message } in hidden" :key="message.id" :data-hidden="message.id">
        <button type="button" class="second-open" @click="emit('open', message)">
          <bdi class="row-sender">{{ senderName(message) }}</bdi>
          <bdi class="row-subject">{{ subjectOf(message.subject) }}</bdi>
          <span class="row-time">{{ near(message.time) }}</span>
          <span class="second-reason">{{
            message.place === 'desk'
              ? 'marked read by a rule'
              : `${inPlace(message.place, titles)}, by a rule`
          }}</span>
        </button>
        <RouterLink :to="{ name: 'rules', query: { rule } }"
          ><bdi>{{ name }}</bdi></RouterLink
        >
        <button
          v-if="message.place === 'desk'"
          type="button"
          class="quiet-button"
          :disabled="busy"
          @click="unread(message)"
        >
          Mark unread
        </button>
        <button v-else type="button" class="quiet-button" :disabled="busy" @click="toDesk(message)">
          {{ titles.desk }}
        </button>
        <button type="button" class="quiet-button" :disabled="busy" @click="leave([message])">Leave</button>
      </li>
    </ul>
  </section>
</template>
