<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { client, unwrap } from '../api/client'
import { usePlaces } from '../composables/places'
import { useAttempt } from '../composables/attempt'

const WORDS: Record<string, string> = {
  desk: 'what needs you; it stays in the inbox',
  shelf: 'what can wait: looked at once a day',
  digest: 'bulk reading: newsletters, announcements',
  drain: 'unwanted mail, to be rescued for a while',
}
const queries = useQueryClient()
const { takers } = usePlaces()
const title = ref('')
const important = ref(false)
const { problem, attempt } = useAttempt()

function add(): void {
  void attempt(async () => {
    const body = { title: title.value, important: important.value }
    await unwrap(client.POST('/api/buckets', { body }))
    title.value = ''
    await queries.invalidateQueries({ queryKey: ['places'] })
  })
}
</script>

<template>
  <section aria-label="Your buckets">
    <h2>Your buckets</h2>
    <dl class="bucket-words">
      <template v-for="one in takers" :key="one.name">
        <dt>{{ one.title }}</dt>
        <dd>
          {{ WORDS[one.name] ?? (one.important ? 'your own, for mail that matters' : 'your own') }}
        </dd>
      </template>
    </dl>
    <form class="settings-add" @submit.prevent="add">
      <BFormInput v-model="title" aria-label="Another bucket" placeholder="Another, say Paperwork" />
      <BFormCheckbox v-model="important">matters like the Desk</BFormCheckbox>
      <button type="submit" class="plain-button" :disabled="!title.trim()">Add</button>
    </form>
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
  </section>
</template>
