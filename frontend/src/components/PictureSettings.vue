<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { client, unwrap } from '../api/client'
import { useAttempt } from '../composables/attempt'

const emit = defineEmits<{ said: [text: string] }>()
const queries = useQueryClient()
const { data } = useQuery({ queryKey: ['pictured'], queryFn: () => unwrap(client.GET('/api/pictured')) })

const { answer } = useAttempt((why) => emit('said', why))

async function remove(address: string): Promise<void> {
  const body = { address, wanted: false }
  const left = await answer(() => unwrap(client.PUT('/api/pictured', { body })))
  if (!left) return
  queries.setQueryData(['pictured'], left)
  await queries.invalidateQueries({ queryKey: ['opened'] })
  emit('said', `Pictures from ${address} are asked for again.`)
}
</script>

<template>
  <div class="settings">
    <h2>Pictures from elsewhere</h2>
    <p class="note">
      They are left out of mail until you ask, since fetching one tells its sender that you read it. This
      machine then fetches them, and sends nothing of yours along.
    </p>
    <p v-if="data && !data.addresses.length">No sender’s pictures are loaded unasked.</p>
    <ul v-else-if="data" class="folder-list" aria-label="Senders whose pictures are always loaded">
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
