<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { client, unwrap, type Message } from '../api/client'
import { useTeaching } from '../composables/teaching'
import { shown } from '../lib/gauge'
import { senderName, subjectOf } from '../lib/words'

const emit = defineEmits<{ open: [message: Message] }>()
const FEW = 5

const { put } = useTeaching()
const { data, refetch } = useQuery({
  queryKey: ['places', 'doubted'],
  queryFn: () => unwrap(client.GET('/api/junk/doubted')),
})

async function rescue(message: Message): Promise<void> {
  await put({ ids: [message.id], rows: [message], place: 'junk' }, 'desk')
  await refetch()
}
</script>

<template>
  <section v-if="data?.total" class="ask" aria-label="Perhaps caught wrongly">
    <p>
      {{ data.total === 1 ? 'One message' : `${data.total} messages` }} in Junk may matter to you. Your
      provider put {{ data.total === 1 ? 'it' : 'them' }} here.
    </p>
    <ul class="ask-list">
      <li v-for="one in data.messages.slice(0, FEW)" :key="one.id">
        <span class="number">{{ shown(one.score) }}</span>
        <button type="button" class="quiet-button ask-what" @click="emit('open', one)">
          <bdi>{{ senderName(one) }}</bdi>: <bdi>{{ subjectOf(one.subject) }}</bdi>
        </button>
        <button type="button" class="plain-button" @click="rescue(one)">To the Desk</button>
      </li>
    </ul>
  </section>
</template>
