<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { client, unwrap } from '../api/client'
import { useAttempt } from '../composables/attempt'

const props = defineProps<{ live: boolean }>()
const LIVE = 2_000
const HOUR = 60

const queries = useQueryClient()
const { data: found } = useQuery({
  queryKey: ['history'],
  queryFn: () => unwrap(client.GET('/api/mailboxes/found')),
  refetchInterval: () => (props.live ? LIVE : false),
})
const { data: settings } = useQuery({
  queryKey: ['settings'],
  queryFn: () => unwrap(client.GET('/api/settings')),
})
const { problem, attempt } = useAttempt()

function mine(address: string): void {
  const owner_addresses = [...(settings.value?.owner_addresses ?? []), address]
  void attempt(async () => {
    queries.setQueryData(
      ['settings'],
      await unwrap(client.PUT('/api/settings', { body: { owner_addresses } })),
    )
    await queries.invalidateQueries({ queryKey: ['history'] })
  })
}

function delay(minutes: number): string {
  if (!minutes) return ''
  return minutes < HOUR
    ? `, usually within ${minutes} min`
    : `, usually within ${Math.round(minutes / HOUR)} h`
}
</script>

<template>
  <section v-if="found" class="history" aria-label="What the history tells">
    <h2>What your history tells</h2>
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <div v-if="found.addresses.length" class="history-own">
      <h3>Are these yours too?</h3>
      <ul>
        <li v-for="one in found.addresses" :key="one.address">
          <bdi>{{ one.address }}</bdi> <span class="note">{{ one.messages }} messages were sent to it</span>
          <button type="button" class="plain-button" @click="mine(one.address)">Mine</button>
        </li>
      </ul>
    </div>
    <div class="history-people">
      <div>
        <h3>You answer</h3>
        <ul>
          <li v-for="one in found.answered" :key="one.address">
            <bdi>{{ one.address }}</bdi>
            <span class="note">{{ one.answered }} of {{ one.received }}{{ delay(one.minutes) }}</span>
          </li>
          <li v-if="!found.answered.length" class="note">Nobody so far.</li>
        </ul>
      </div>
      <div>
        <h3>You leave unread</h3>
        <ul>
          <li v-for="one in found.unread" :key="one.address">
            <bdi>{{ one.address }}</bdi>
            <span class="note">{{ one.received - one.read }} of {{ one.received }}</span>
          </li>
          <li v-if="!found.unread.length" class="note">Nobody so far.</li>
        </ul>
      </div>
    </div>
    <p v-if="found.lists" class="note">
      {{ found.lists === 1 ? 'One mailing list writes' : `${found.lists} mailing lists write` }} to you.
    </p>
  </section>
</template>
