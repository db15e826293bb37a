<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { watch } from 'vue'
import { client, unwrap, type Delivery } from '../api/client'
import { useStatus } from '../composables/events'

const queries = useQueryClient()
const { arrived } = useStatus()
const { data } = useQuery({ queryKey: ['delivery'], queryFn: () => unwrap(client.GET('/api/delivery')) })
const PACES = [2, 6, 20, 60]

const change = useMutation({
  mutationFn: (body: { running: boolean; interval: number }) => unwrap(client.PUT('/api/delivery', { body })),
  onSuccess: (now) => queries.setQueryData<Delivery>(['delivery'], now),
})

watch(arrived, () => void queries.invalidateQueries({ queryKey: ['delivery'] }))

function toggle(): void {
  if (data.value) change.mutate({ running: !data.value.running, interval: data.value.interval })
}

function pace(event: Event): void {
  const interval = Number((event.target as HTMLSelectElement).value)
  change.mutate({ running: data.value?.running ?? false, interval })
}
</script>

<template>
  <div v-if="data?.present" class="delivery">
    <template v-if="data.left > 0">
      <p class="delivery-title">Demo day</p>
      <p class="delivery-left">{{ data.left }} to come</p>
      <button type="button" class="delivery-button" @click="toggle">
        {{ data.running ? 'Pause' : 'Let arrive' }}
      </button>
      <label class="delivery-pace">
        <span class="visually-hidden">Seconds between messages</span>
        <select :value="data.interval" @change="pace">
          <option v-if="!PACES.includes(data.interval)" :value="data.interval">{{ data.interval }} s</option>
          <option v-for="seconds in PACES" :key="seconds" :value="seconds">{{ seconds }} s</option>
        </select>
      </label>
    </template>
    <p v-else class="delivery-left">The demo day is over</p>
  </div>
</template>
