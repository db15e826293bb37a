<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { client, unwrap, type Mailbox } from '../api/client'
import { usePlaces } from '../composables/places'

const props = defineProps<{ mailbox: Mailbox; busy: boolean }>()
const emit = defineEmits<{ on: [] }>()

const { titles, band } = usePlaces()
const { data } = useQuery({
  queryKey: ['mailboxes', 'preview', props.mailbox.id],
  queryFn: () =>
    unwrap(client.GET('/api/mailboxes/{number}/preview', { params: { path: { number: props.mailbox.id } } })),
})
const counts = computed(() => {
  const order = [...band.value.map((one) => one.name), 'archive']
  return [...(data.value?.counts ?? [])].sort((a, b) => order.indexOf(a.place) - order.indexOf(b.place))
})
const most = computed(() => Math.max(1, ...counts.value.map((one) => one.messages)))

function words(place: string): string {
  return place === 'archive' ? 'stays in the inbox: dealt with long ago' : (titles.value[place] ?? place)
}
</script>

<template>
  <section class="settings wide" aria-label="Where mail would go">
    <h2>Of your newest {{ data?.total ?? 0 }} messages</h2>
    <ul class="shares">
      <li v-for="one in counts" :key="one.place">
        <RouterLink :to="`/in/${one.place}`">{{ words(one.place) }}</RouterLink>
        <span class="share" :style="{ '--share': one.messages / most }" aria-hidden="true" />
        <span class="number">{{ one.messages }}</span>
      </li>
    </ul>
    <p>
      Nothing has been moved on the server yet. Open any of them, and put right what is wrong. Then let it
      route.
    </p>
    <p v-if="!mailbox.routing">
      <button type="button" class="strong-button" :disabled="busy" @click="emit('on')">
        Let it route: these {{ data?.total ?? 0 }}, and what arrives
      </button>
      <RouterLink to="/in/desk" class="beside">Not yet: only show where mail would go</RouterLink>
    </p>
    <p v-else>Mail is routed. <RouterLink to="/in/desk">To the Desk</RouterLink></p>
  </section>
</template>
