<script setup lang="ts">
import { ref } from 'vue'
import { client, unwrap, type Mailbox, type Servers } from '../api/client'
import ServersForm from './ServersForm.vue'
import { useAttempt } from '../composables/attempt'

const props = defineProps<{ mailbox: Mailbox; keepers: { keyring: boolean; sealed: boolean } }>()
const emit = defineEmits<{ done: [] }>()

const { address, name, user, bearer, imap_host, imap_port, imap_security } = props.mailbox
const { smtp_host, smtp_port, smtp_security, imap_pin, smtp_pin } = props.mailbox
const wanted = ref<Servers>({
  address,
  name,
  user,
  bearer,
  secret: '',
  kept: props.mailbox.kept ?? 'file',
  imap_host,
  imap_port,
  imap_security,
  smtp_host,
  smtp_port,
  smtp_security,
  imap_pin,
  smtp_pin,
  authorisation: '',
})
const { problem, certificate, busy, attempt } = useAttempt()

function save(): void {
  void attempt(async () => {
    const params = { path: { number: props.mailbox.id } }
    const body = { ...wanted.value, secret: wanted.value.secret || null }
    await unwrap(client.PUT('/api/mailboxes/{number}', { params, body }))
    emit('done')
  })
}
</script>

<template>
  <form class="settings wide" @submit.prevent="save">
    <ServersForm v-model="wanted" :keepers="keepers" :certificate="certificate" :before="mailbox" known />
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <p>
      <button type="submit" class="strong-button" :disabled="busy">
        {{ busy ? 'Trying …' : 'Test and save' }}
      </button>
    </p>
  </form>
</template>
