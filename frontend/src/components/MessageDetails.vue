<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { client, unwrap, type Opened } from '../api/client'
import { bytes } from '../lib/time'
import { useMailboxes } from '../composables/mailboxes'
import MessageJournal from './MessageJournal.vue'

const props = defineProps<{ number: number; opened: Opened }>()

const { mailboxes } = useMailboxes()
const shown = ref(false)
const told = ref(false)
const { data: headers } = useQuery({
  queryKey: computed(() => ['headers', props.number]),
  queryFn: () =>
    unwrap(client.GET('/api/messages/{number}/headers', { params: { path: { number: props.number } } })),
  enabled: shown,
})
</script>

<template>
  <footer class="reading-foot">
    <button type="button" class="quiet-button" :aria-expanded="shown" @click="shown = !shown">
      {{ shown ? 'Hide the headers' : 'Headers' }}
    </button>
    <button type="button" class="quiet-button" :aria-expanded="told" @click="told = !told">
      {{ told ? 'Hide what happened' : 'What happened to it' }}
    </button>
    <a :href="`/api/messages/${number}/source`" download>Source of the message</a>
    <span>{{ bytes(opened.message.size) }}</span>
    <span v-if="mailboxes.length > 1 && opened.accounts.length" class="reading-accounts"
      >in
      <template v-for="(account, at) in opened.accounts" :key="account"
        ><template v-if="at"> and </template
        ><RouterLink :to="{ name: 'search', query: { line: `account:${account}` } }">{{
          account
        }}</RouterLink></template
      ><template v-if="opened.accounts.length > 1">, and moved in each</template></span
    >
    <MessageJournal v-if="told" :number="number" :ruled="opened.ruled" />
    <div v-if="shown" class="details">
      <h3>Where it came from</h3>
      <ul v-if="opened.checks.length" class="details-checks">
        <li v-for="(check, index) in opened.checks" :key="index">
          <strong>{{ check.server }}</strong>
          <template v-if="!check.believed"> (not one you believe)</template>: {{ check.words }}
        </li>
      </ul>
      <p v-else>No server says that it checked the sender.</p>
      <h3>Headers</h3>
      <table class="details-headers">
        <tbody>
          <tr v-for="(header, index) in headers" :key="index">
            <th scope="row">{{ header.name }}</th>
            <td dir="auto">{{ header.value }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </footer>
</template>
