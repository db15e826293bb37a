<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { client, unwrap, type Mailbox } from '../api/client'
import { usePlaces } from '../composables/places'
import { useAttempt } from '../composables/attempt'

const props = defineProps<{ mailbox: Mailbox }>()
const queries = useQueryClient()
const { titles } = usePlaces()
const key = computed(() => ['mailboxes', 'folders', props.mailbox.id])
const params = { path: { number: props.mailbox.id } }
const { data } = useQuery({
  queryKey: key,
  queryFn: () => unwrap(client.GET('/api/mailboxes/{number}/folders', { params })),
})
const { problem, attempt } = useAttempt()
const fixed = (role: string) => role === 'inbox' || role === 'bucket'

function follow(folder: number, followed: boolean): void {
  const path = { number: props.mailbox.id, folder }
  const address = '/api/mailboxes/{number}/folders/{folder}'
  void attempt(async () => {
    queries.setQueryData(
      key.value,
      await unwrap(client.PUT(address, { params: { path }, body: { followed } })),
    )
  })
}
</script>

<template>
  <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
  <table class="ledger narrow">
    <thead>
      <tr>
        <th>On the server</th>
        <th>Here</th>
        <th class="number">Messages</th>
        <th>Followed</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="one in data" :key="one.id">
        <td>
          <bdi>{{ one.name }}</bdi>
        </td>
        <td>{{ titles[one.place] ?? one.place }}</td>
        <td class="number">{{ one.present ? one.known : 'made when needed' }}</td>
        <td>
          <input
            type="checkbox"
            class="form-check-input"
            :checked="one.followed"
            :disabled="fixed(one.role)"
            :aria-label="`Follow ${one.name}`"
            @change="follow(one.id, ($event.target as HTMLInputElement).checked)"
          />
        </td>
      </tr>
    </tbody>
  </table>
</template>
