<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { client, unwrap, type Elsewhere } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { usePlaces } from '../composables/places'
import { useTeaching } from '../composables/teaching'
import { senderName, subjectOf } from '../lib/words'

const queries = useQueryClient()
const { titles } = usePlaces()
const { show } = useTeaching()
const { answer: tried } = useAttempt(show)
const { data: asked } = useQuery({
  queryKey: ['elsewhere'],
  queryFn: () => unwrap(client.GET('/api/elsewhere')),
})

async function answer(one: Elsewhere, learn: boolean): Promise<void> {
  const params = { path: { number: one.id } }
  const made = await tried(() => unwrap(client.POST('/api/elsewhere/{number}', { params, body: { learn } })))
  if (made) show(learn ? `${made.lessons} lessons learned.` : 'Left as it is: nothing was learned.')
  await queries.invalidateQueries({ queryKey: ['elsewhere'] })
}
</script>

<template>
  <section v-for="one in asked" :key="one.id" class="ask" aria-label="Moved in another program">
    <p>
      {{ one.total }} messages were put in {{ titles[one.belongs] ?? one.belongs }} in another program. Is
      that a lesson?
      <span class="note">
        <template v-for="(message, at) in one.first" :key="message.id"
          >{{ at ? '; ' : '' }}<bdi>{{ senderName(message) }}</bdi
          >: <bdi>{{ subjectOf(message.subject) }}</bdi></template
        >{{ one.total > one.first.length ? '; …' : '' }}
      </span>
    </p>
    <p class="ask-acts">
      <button type="button" class="plain-button" @click="answer(one, true)">Learn from all of them</button>
      <button type="button" class="quiet-button" @click="answer(one, false)">No, only tidying up</button>
    </p>
  </section>
</template>
