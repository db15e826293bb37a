<script setup lang="ts">
import { ref } from 'vue'
import { client, unwrap } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { useEntry } from '../composables/entry'

defineProps<{ demo: boolean }>()
const emit = defineEmits<{ said: [text: string] }>()
const { signOut } = useEntry()
const old = ref('')
const wanted = ref('')

const { attempt } = useAttempt((why) => emit('said', why))

async function change(): Promise<void> {
  const body = { old: old.value, new: wanted.value }
  if (!(await attempt(() => unwrap(client.PUT('/api/entry/password', { body }))))) return
  old.value = wanted.value = ''
  emit('said', 'The password is changed. Everybody else is signed out.')
}
</script>

<template>
  <section class="settings" aria-label="Your data">
    <h2>Your data</h2>
    <p>
      <a href="/api/export" class="plain-button" download>Export everything</a>
    </p>
    <p class="note">One file: mail as mbox, lessons, states and settings as JSON Lines.</p>
  </section>
  <form v-if="!demo" class="settings" @submit.prevent="change">
    <h2>Getting in</h2>
    <label for="old-password">Password now</label>
    <input
      id="old-password"
      v-model="old"
      class="form-control"
      type="password"
      autocomplete="current-password"
    />
    <label for="new-password">New password</label>
    <input
      id="new-password"
      v-model="wanted"
      class="form-control"
      type="password"
      autocomplete="new-password"
    />
    <p>
      <button type="submit" class="plain-button" :disabled="!old || !wanted">Change the password</button>
      <button type="button" class="quiet-button" @click="signOut">Sign out</button>
    </p>
  </form>
</template>
