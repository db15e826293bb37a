<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { client, unwrap, type ServerRules } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { near } from '../lib/time'
import { SECURITIES } from '../lib/words'

const props = defineProps<{ account: number }>()

const FOUND: Record<ServerRules['state'], string> = {
  '': 'None of your rules runs there.',
  there: 'They run there as they were put.',
  changed: 'Another program changed the script there.',
  gone: 'The script is not there any more.',
  resting: 'The script is there, and another runs instead of it, or none.',
}
const queries = useQueryClient()
const { answer, busy, problem } = useAttempt()
const key = computed(() => ['rules', 'server', props.account] as const)
const query = computed(() => ({ params: { query: { account: props.account } } }))
const { data, error } = useQuery({
  queryKey: key,
  queryFn: (): Promise<ServerRules> => unwrap(client.GET('/api/server-rules', query.value)),
})
const chosen = ref<readonly number[]>([])
const host = ref('')
const port = ref(0)
const security = ref<ServerRules['security']>('starttls')
const wanted = computed(() => chosen.value.filter((rule) => data.value?.can.some((one) => one.rule === rule)))
const said = computed(() => {
  const found = data.value
  if (!found) return error.value?.message ?? 'Looking …'
  const old = found.state === 'there' && !found.current ? ' Your rules say something else by now.' : ''
  const beside = found.beside ? ` Your own script, ${found.beside}, runs before them.` : ''
  return FOUND[found.state] + old + beside
})

watch(
  data,
  (found) => {
    if (!found) return
    host.value = found.host
    port.value = found.port
    security.value = found.security
    chosen.value = found.rules.length ? found.rules : found.can.map((one) => one.rule)
  },
  { immediate: true },
)

function choose(rule: number, on: boolean): void {
  chosen.value = on ? [...chosen.value, rule] : chosen.value.filter((one) => one !== rule)
}

async function done(work: () => Promise<ServerRules>): Promise<void> {
  const found = await answer(work)
  if (!found) return
  queries.setQueryData(key.value, found)
  await queries.invalidateQueries({ queryKey: ['rules'], exact: true })
}

const put = () =>
  done(() => {
    const body = {
      account: props.account,
      rules: [...wanted.value],
      host: host.value,
      port: port.value,
      security: security.value,
    }
    return unwrap(client.PUT('/api/server-rules', { body }))
  })
const look = () => done(() => unwrap(client.POST('/api/server-rules/look', query.value)))
const takeAway = () => done(() => unwrap(client.DELETE('/api/server-rules', query.value)))
</script>

<template>
  <section class="server-rules" aria-label="At the server">
    <h3>At the server, by ManageSieve</h3>
    <p role="status">
      {{ said }}
      <template v-if="data?.looked_at">Looked at {{ near(data.looked_at) }}.</template>
    </p>
    <template v-if="data">
      <p v-if="!data.can.length && !data.rules.length" class="note">No rule that is on can run there.</p>
      <fieldset v-else>
        <legend>Rules that run there too</legend>
        <label v-for="one in data.can" :key="one.rule">
          <input
            type="checkbox"
            :checked="chosen.includes(one.rule)"
            @change="choose(one.rule, ($event.target as HTMLInputElement).checked)"
          />
          <bdi>{{ one.name }}</bdi>
        </label>
      </fieldset>
      <p class="server-where">
        <label for="server-host">Server</label>
        <input id="server-host" v-model.trim="host" class="form-control" maxlength="253" />
        <label for="server-port">Port</label>
        <input
          id="server-port"
          v-model.number="port"
          class="form-control"
          type="number"
          min="1"
          max="65535"
        />
        <label for="server-security">Encryption</label>
        <select id="server-security" v-model="security" class="form-select">
          <option v-for="kind in SECURITIES" :key="kind.value" :value="kind.value">{{ kind.text }}</option>
        </select>
      </p>
      <p v-if="problem" class="rule-broken" role="alert">{{ problem }}</p>
      <p class="tag-acts">
        <button
          type="button"
          class="plain-button"
          data-act="serve"
          :disabled="busy || !wanted.length || !host || !port"
          @click="put"
        >
          {{ data.rules.length ? 'Put them there again' : 'Let them run there' }}
        </button>
        <template v-if="data.rules.length">
          <button type="button" class="quiet-button" :disabled="busy" @click="look">Check now</button>
          <button type="button" class="quiet-button" :disabled="busy" @click="takeAway">Remove them</button>
        </template>
      </p>
    </template>
  </section>
</template>
