<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { client, unwrap, type Settings, type Vouched } from '../api/client'
import { useAttempt } from '../composables/attempt'

const props = defineProps<{ settings: Settings }>()
const emit = defineEmits<{ save: [change: Partial<Omit<Settings, 'checkers'>>] }>()

const queries = useQueryClient()
const { data: vouched } = useQuery({
  queryKey: ['vouched'],
  queryFn: () => unwrap(client.GET('/api/vouched')),
})
const wanted = ref('')
const { problem, attempt } = useAttempt()
const shared = ref('')
const confirmed = computed(() => new Set(props.settings.confirmed_checkers))
const checkers = computed(() => {
  const seen = props.settings.checkers.map((one) => one.authserv_id)
  return [
    ...props.settings.checkers,
    ...props.settings.confirmed_checkers
      .filter((name) => !seen.includes(name))
      .map((name) => ({ authserv_id: name, messages: 0 })),
  ]
})

watch(
  () => props.settings.shared_domains,
  (now) => (shared.value = now.join('\n')),
  { immediate: true },
)

async function guarded(work: () => Promise<unknown>): Promise<void> {
  if (await attempt(work)) await queries.invalidateQueries({ queryKey: ['vouched'] })
}

function add(): void {
  const key = wanted.value.trim()
  const kind = key.replace(/^@/, '').includes('@') ? ('address' as const) : ('domain' as const)
  void guarded(async () => {
    await unwrap(client.POST('/api/vouched', { body: { kind, key } }))
    wanted.value = ''
  })
}

function remove(one: Vouched): void {
  const params = { path: { kind: one.kind, key: one.key } }
  void guarded(async () => {
    const { error } = await client.DELETE('/api/vouched/{kind}/{key}', { params })
    if (error) throw new Error('It was not vouched for any more. The list was loaded again.')
  })
}

function believe(name: string, yes: boolean): void {
  const names = props.settings.confirmed_checkers.filter((one) => one !== name)
  emit('save', { confirmed_checkers: yes ? [...names, name] : names })
}
</script>

<template>
  <section class="settings" aria-label="Vouched senders">
    <h2>Vouched senders</h2>
    <p class="note">Their mail stays on the Desk, unless it proves forged.</p>
    <form class="try-line" @submit.prevent="add">
      <BFormInput
        v-model="wanted"
        aria-label="Address or domain to vouch for"
        placeholder="ilse@hall.example or hall.example"
        spellcheck="false"
      />
      <button type="submit" class="plain-button" :disabled="!wanted.trim()">Vouch</button>
    </form>
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <ul class="vouched">
      <li v-for="one in vouched" :key="`${one.kind} ${one.key}`">
        <bdi
          >{{ one.kind === 'domain' ? 'everybody at ' : '' }}{{ one.key
          }}<span v-if="one.name" class="vouched-name note">{{ one.name }}</span></bdi
        >
        <button type="button" class="quiet-button" :aria-label="`Remove ${one.key}`" @click="remove(one)">
          Remove
        </button>
      </li>
      <li v-if="vouched && !vouched.length" class="note">Nobody yet.</li>
    </ul>
  </section>
  <section class="settings" aria-label="Checks of senders">
    <h2>Whose checks are believed</h2>
    <p class="note">
      Servers write into mail whether its sender is genuine. Believe only the one your mail comes in through;
      anybody can write the others.
    </p>
    <BFormCheckbox
      v-for="one in checkers"
      :key="one.authserv_id"
      :model-value="confirmed.has(one.authserv_id)"
      @update:model-value="(yes) => believe(one.authserv_id, Boolean(yes))"
      ><bdi>{{ one.authserv_id }}</bdi
      ><span class="checker-count note">on {{ one.messages.toLocaleString() }} {{ one.messages === 1 ? 'message' : 'messages' }}</span></BFormCheckbox
    >
    <p v-if="!checkers.length" class="note">No server has checked any of your mail yet.</p>
  </section>
  <form
    class="settings"
    @submit.prevent="emit('save', { shared_domains: shared.split(/[\s,;]+/).filter(Boolean) })"
  >
    <h2>Domains many people share</h2>
    <label for="shared">One a line; nothing can be said for such a domain as a whole</label>
    <BFormTextarea id="shared" v-model="shared" rows="3" spellcheck="false" />
    <p><button type="submit" class="plain-button">Save domains</button></p>
  </form>
</template>
