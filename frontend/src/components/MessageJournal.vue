<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { client, unwrap, type Opened } from '../api/client'
import { usePlaces } from '../composables/places'
import { exact, near } from '../lib/time'
import { eventWords, inPlace } from '../lib/words'

const props = defineProps<{ number: number; ruled: Opened['ruled'] }>()

const { titles } = usePlaces()
const { data: events } = useQuery({
  queryKey: computed(() => ['journal', 'message', props.number] as const),
  queryFn: () =>
    unwrap(client.GET('/api/messages/{number}/journal', { params: { path: { number: props.number } } })),
})
</script>

<template>
  <section v-if="events" class="details" aria-label="What happened to this message">
    <h3>What happened to this message</h3>
    <p v-for="rule in ruled" :key="rule.rule">
      The rule
      <RouterLink :to="{ name: 'rules', query: { rule: rule.rule } }">{{ rule.name }}</RouterLink> took
      it<template v-if="rule.put">, and put it {{ inPlace(rule.put, titles) }}</template
      >.
    </p>
    <p v-if="!events.length">Nothing since it was placed when it came.</p>
    <ol v-else class="message-journal">
      <li v-for="(event, at) in events" :key="at" :class="{ undone: event.undone_at }">
        <time :title="exact(event.at)">{{ near(event.at) }}</time>
        <span>{{ eventWords(event, titles) }}</span>
        <span v-if="event.undone_at">undone {{ near(event.undone_at) }}</span>
      </li>
    </ol>
  </section>
</template>
