<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { client, unwrap, type Authorisation } from '../api/client'
import { useAttempt } from '../composables/attempt'

/** By what the authorisation is known, once the owner gave it; empty until then. */
const granted = defineModel<string>({ required: true })
const props = defineProps<{
  /** Where this mailbox was authorised before. */
  before?: { authorise_url: string; token_url: string; client_id: string; scope: string }
}>()

const wanted = ref({
  authorise_url: props.before?.authorise_url ?? '',
  token_url: props.before?.token_url ?? '',
  client_id: props.before?.client_id ?? '',
  client_secret: '',
  scope: props.before?.scope ?? '',
})
const FIELDS = [
  { name: 'authorise_url', text: 'Address to authorise at', hint: 'https://…' },
  { name: 'token_url', text: 'Address tokens are had at', hint: 'https://…' },
  { name: 'client_id', text: 'Client', hint: '' },
  { name: 'client_secret', text: 'Secret of the client, if it has one', hint: '' },
  { name: 'scope', text: 'Scope', hint: '' },
] as const
const begun = ref<Authorisation | null>(null)
const returned = ref('')
const { problem, busy, attempt } = useAttempt()
const ready = computed(
  () => wanted.value.authorise_url && wanted.value.token_url && wanted.value.client_id && !busy.value,
)
const id = computed(() => begun.value?.id ?? '')
const { data: now, refetch } = useQuery({
  queryKey: ['authorisation', id],
  queryFn: async () => {
    const told = await unwrap(
      client.GET('/api/authorisations/{state}', { params: { path: { state: id.value } } }),
    )
    if (told.state === 'granted') granted.value = told.id
    return told
  },
  enabled: () => id.value !== '',
  refetchInterval: (query) => (query.state.data?.state === 'waiting' ? 1500 : false),
})

function begin(): void {
  granted.value = ''
  returned.value = ''
  void attempt(async () => {
    const body = { ...wanted.value, client_secret: wanted.value.client_secret || null }
    begun.value = await unwrap(client.POST('/api/authorisations', { body }))
    window.open(begun.value.url, '_blank', 'noopener')
  })
}

function finish(): void {
  void attempt(async () => {
    await unwrap(client.POST('/api/authorisations/finish', { body: { returned: returned.value } }))
    await refetch()
  })
}
</script>

<template>
  <fieldset class="authorise">
    <legend>Authorise in the browser (OAuth 2.0)</legend>
    <p class="note">
      Your provider names the addresses, a client for mail programs and the scope. You say who you are to your
      provider alone; what comes back here is a token, and no password.
    </p>
    <div class="field-row">
      <div v-for="one in FIELDS" :key="one.name">
        <label :for="`authorise-${one.name}`">{{ one.text }}</label>
        <input
          :id="`authorise-${one.name}`"
          v-model="wanted[one.name]"
          class="form-control"
          :type="one.name === 'client_secret' ? 'password' : 'text'"
          :placeholder="one.hint"
          autocomplete="off"
          spellcheck="false"
        />
      </div>
    </div>
    <p>
      <button type="button" class="plain-button" :disabled="!ready" @click="begin">
        {{ begun ? 'Authorise anew' : 'Authorise' }}
      </button>
    </p>
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <div v-if="begun" role="status">
      <p v-if="granted">Authorised. Try it now.</p>
      <p v-else-if="now?.state === 'refused'" class="page-problem">{{ now.error }}</p>
      <template v-else>
        <p>
          Waiting for your answer in the tab that was opened;
          <a :href="begun.url" target="_blank" rel="noopener noreferrer">open it again</a>.
        </p>
        <label for="authorise-returned">
          If that browser ends at a page it cannot open, copy that page's whole address to here
        </label>
        <div class="authorise-returned">
          <input
            id="authorise-returned"
            v-model="returned"
            class="form-control"
            autocomplete="off"
            spellcheck="false"
            @keydown.enter.prevent="finish"
          />
          <button type="button" class="plain-button" :disabled="!returned || busy" @click="finish">
            Take
          </button>
        </div>
      </template>
    </div>
  </fieldset>
</template>
