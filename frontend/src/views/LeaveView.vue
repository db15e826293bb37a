<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { client, unwrap } from '../api/client'
import { useMailboxes } from '../composables/mailboxes'
import { senderName, subjectOf } from '../lib/words'
import { useAttempt } from '../composables/attempt'

const WATCH = 800
const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
const { mailboxes, refresh } = useMailboxes()
const number = computed(() => Number(route.params.account))
const mailbox = computed(() => mailboxes.value.find((one) => one.id === number.value))
const path = computed(() => ({ params: { path: { number: number.value } } }))
const key = computed(() => ['leaving', number.value])
const { data: leaving } = useQuery({
  queryKey: key,
  queryFn: () => unwrap(client.GET('/api/mailboxes/{number}/leaving', path.value)),
  refetchInterval: (query) => (query.state.data?.state === 'busy' ? WATCH : false),
})
const how = ref<'keep' | 'back'>('keep')
const { problem, attempt } = useAttempt()

const begin = () =>
  attempt(async () => {
    const body = { how: how.value }
    const now = await unwrap(client.POST('/api/mailboxes/{number}/leaving', { ...path.value, body }))
    queries.setQueryData(key.value, now)
    await queries.invalidateQueries({ queryKey: key.value })
  })
const stay = () =>
  attempt(async () => {
    await unwrap(client.DELETE('/api/mailboxes/{number}/leaving', path.value))
    await refresh()
    await router.push('/mailboxes')
  })
const forget = () =>
  attempt(async () => {
    await unwrap(client.DELETE('/api/mailboxes/{number}', path.value))
    await refresh()
    await router.push('/mailboxes')
  })
</script>

<template>
  <div class="page">
    <header class="page-head">
      <h1>
        Leave <bdi>{{ mailbox?.address ?? 'a mailbox' }}</bdi>
      </h1>
      <p>
        First everything, if you want it:
        <a href="/api/export" download>all your mail, lessons and settings</a>
        in one file, which another Hieranome reads.
      </p>
    </header>
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <form
      v-if="mailbox && (leaving?.state === 'none' || leaving?.state === 'failed')"
      class="settings wide"
      @submit.prevent="begin"
    >
      <p v-if="leaving.error" class="page-problem" role="alert">{{ leaving.error }}</p>
      <BFormRadioGroup v-model="how" stacked name="how">
        <BFormRadio value="keep"
          >Stop, and keep the folders on the server as they are: mail stays in {{ mailbox.address }} where it
          stands</BFormRadio
        >
        <BFormRadio value="back"
          >Put everything back: all mail in the buckets' folders goes back to the inbox, and the empty folders
          go</BFormRadio
        >
      </BFormRadioGroup>
      <p class="note">
        Either way every message is then looked for on the server, and you see what is found.
      </p>
      <p>
        <button type="submit" class="strong-button">
          {{ how === 'back' ? 'Put everything back' : 'Stop' }}
        </button>
        <RouterLink to="/mailboxes" class="beside">Stay</RouterLink>
      </p>
    </form>
    <p v-else-if="leaving?.state === 'busy'" role="status">
      Moving and looking for every message on the server …
    </p>
    <section v-else-if="leaving?.state === 'done'" class="settings wide" aria-label="What was found">
      <p role="status">
        {{ leaving.there }} messages were looked for and found on the server<template
          v-if="leaving.brought_back"
          >; {{ leaving.brought_back }} of them were put back into the inbox</template
        >.
      </p>
      <p v-if="leaving.left" class="page-problem" role="alert">{{ leaving.left }}</p>
      <template v-if="leaving.missing.length">
        <p>These are not on the server; they are kept here:</p>
        <ul>
          <li v-for="one in leaving.missing" :key="one.id">
            <bdi>{{ senderName(one) }}</bdi>: <bdi>{{ subjectOf(one.subject) }}</bdi>
          </li>
        </ul>
      </template>
      <p>
        <button type="button" class="strong-button" @click="forget">Forget this mailbox here</button>
        <button type="button" class="quiet-button" @click="stay">Stay after all</button>
      </p>
      <p class="note">
        Its password is forgotten with it. The messages stay here to be read and searched, and on the server
        nothing more is changed.
      </p>
    </section>
    <p v-else-if="!mailbox" class="note">
      This mailbox is not connected. <RouterLink to="/mailboxes">To the mailboxes</RouterLink>
    </p>
  </div>
</template>
