<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { client, unwrap } from '../api/client'

const emit = defineEmits<{ said: [text: string] }>()
const queries = useQueryClient()
const { data } = useQuery({ queryKey: ['pictured'], queryFn: () => unwrap(client.GET('/api/pictured')) })

async function remove(address: string): Promise<void> {
  try {
    const body = { address, wanted: false }
    queries.setQueryData(['pictured'], await unwrap(client.PUT('/api/pictured', { body })))
    await queries.invalidateQueries({ queryKey: ['opened'] })
    emit('said', `Pictures from ${address} are asked for again.`)
  } catch (error) {
    emit('said', (error as Error).message)
  }
}
</script>

<template>
  <div class="settings">
    <h2>Pictures from elsewhere</h2>
    <p class="note">
      They are left out of mail until you ask, since fetching one tells its sender that you read it. This
      machine then fetches them, and sends nothing of yours along.
    </p>
    <p v-if="!data?.addresses.length">No sender’s pictures are loaded unasked.</p>
    <ul v-else class="folder-list" aria-label="Senders whose pictures are always loaded">
      <li v-for="address in data.addresses" :key="address">
        <bdi>{{ address }}</bdi>
        <button
          type="button"
          class="quiet-button"
          :aria-label="`Ask again before loading pictures from ${address}`"
          @click="remove(address)"
        >
          Ask again
        </button>
      </li>
    </ul>
  </div>
</template>
