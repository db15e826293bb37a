<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { client, unwrap } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { useMailboxes } from '../composables/mailboxes'
import ServerRules from './ServerRules.vue'

const emit = defineEmits<{ taken: [count: number]; close: [] }>()

const { mailboxes } = useMailboxes()
const { answer, busy, problem } = useAttempt()
const account = ref(0)
const given = ref('')
watch(mailboxes, (all) => (account.value = account.value || (all[0]?.id ?? 0)), { immediate: true })
const { data: script, error } = useQuery({
  queryKey: computed(() => ['rules', 'sieve', account.value] as const),
  queryFn: () => unwrap(client.GET('/api/rules/sieve', { params: { query: { account: account.value } } })),
  enabled: computed(() => account.value > 0),
})

const out = computed(() => {
  if (error.value) return error.value.message
  return script.value ? script.value.text || 'No rule can be said in Sieve.' : 'It is being written …'
})

async function take(): Promise<void> {
  const body = { account: account.value, text: given.value }
  const rules = await answer(() => unwrap(client.POST('/api/rules/sieve', { body })))
  if (!rules) return
  given.value = ''
  emit('taken', rules.length)
}
</script>

<template>
  <section class="rule-script" aria-label="Rules as Sieve">
    <header>
      <h2>As Sieve</h2>
      <label v-if="mailboxes.length > 1">
        for
        <select v-model="account" class="form-select">
          <option v-for="one in mailboxes" :key="one.id" :value="one.id">{{ one.address }}</option>
        </select>
      </label>
      <button type="button" class="quiet-button" @click="emit('close')">Close</button>
    </header>
    <p v-if="!mailboxes.length">Connect a mailbox first: a script names the folders of its server.</p>
    <template v-else>
      <p>
        What of your rules a mail server can do while this machine is off. It knows nothing of verdicts,
        scores or threads; what it files wrongly because of that is put back at the next look.
      </p>
      <label for="script-out">The script</label>
      <textarea id="script-out" class="form-control" readonly rows="12" :value="out" />
      <template v-if="script?.left.length">
        <h3>Stays here</h3>
        <ul>
          <li v-for="one in script.left" :key="one.rule">
            <strong>{{ one.name }}</strong>: {{ one.why }}
          </li>
        </ul>
      </template>
      <ServerRules v-if="account" :key="account" :account="account" />
      <form @submit.prevent="take">
        <label for="script-in">Import a script as rules, which are off until you switch them on</label>
        <textarea id="script-in" v-model="given" class="form-control" rows="6" spellcheck="false" />
        <p v-if="problem" class="rule-broken" role="alert">{{ problem }}</p>
        <button type="submit" class="plain-button" :disabled="busy || !given.trim()">Import</button>
      </form>
    </template>
  </section>
</template>
