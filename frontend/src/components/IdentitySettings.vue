<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { client, unwrap, type Identity } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { useMailboxes } from '../composables/mailboxes'

const emit = defineEmits<{ said: [text: string] }>()
const queries = useQueryClient()
const { mailboxes } = useMailboxes()
const { data: identities } = useQuery({
  queryKey: ['identities'],
  queryFn: () => unwrap(client.GET('/api/identities')),
})
const address = ref('')

const { answer } = useAttempt((why) => emit('said', why))

async function guarded(work: () => Promise<Identity[]>): Promise<void> {
  const now = await answer(work)
  if (!now) return
  queries.setQueryData(['identities'], now)
  emit('said', 'Saved.')
}

function save(one: Identity): void {
  void guarded(() => unwrap(client.PUT('/api/identities', { body: one })))
}

function add(): void {
  const account = mailboxes.value[0]?.id
  if (account) save({ address: address.value.trim(), account, name: '', signature: '' })
  address.value = ''
}

function remove(one: Identity): void {
  const params = { path: { address: one.address } }
  void guarded(() => unwrap(client.DELETE('/api/identities/{address}', { params })))
}
</script>

<template>
  <section v-if="mailboxes.length" class="settings" aria-label="Who you write as">
    <h2>Who you write as</h2>
    <form v-for="one in identities" :key="one.address" class="identity" @submit.prevent="save(one)">
      <h3>
        <bdi>{{ one.address }}</bdi>
      </h3>
      <label :for="`name-${one.address}`">Name</label>
      <input :id="`name-${one.address}`" v-model="one.name" class="form-control" />
      <label :for="`signature-${one.address}`">Signature</label>
      <textarea :id="`signature-${one.address}`" v-model="one.signature" class="form-control" rows="3" />
      <p>
        <button type="submit" class="plain-button">Save this identity</button>
        <button type="button" class="quiet-button" @click="remove(one)">Remove</button>
      </p>
    </form>
    <form class="try-line" @submit.prevent="add">
      <BFormInput v-model="address" aria-label="Another address to write as" spellcheck="false" />
      <button type="submit" class="plain-button" :disabled="!address.includes('@')">Add</button>
    </form>
  </section>
</template>
