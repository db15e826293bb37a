<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { client, unwrap } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { useHistory } from '../composables/history'

const queries = useQueryClient()
const { data: found } = useHistory()
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
    for (const key of ['history', 'round']) await queries.invalidateQueries({ queryKey: [key] })
  })
}
</script>

<template>
  <div v-if="found?.addresses.length" class="history history-own">
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <h3>{{ settings?.owner_addresses.length ? 'Are these yours too?' : 'Which of these are yours?' }}</h3>
    <ul>
      <li v-for="one in found.addresses" :key="one.address">
        <bdi>{{ one.address }}</bdi>
        <span class="note">
          {{ one.messages === 1 ? '1 message was sent to it' : `${one.messages} messages were sent to it` }}
        </span>
        <button
          type="button"
          class="plain-button"
          :aria-label="`Mine: ${one.address}`"
          @click="mine(one.address)"
        >
          Mine
        </button>
      </li>
    </ul>
  </div>
</template>
