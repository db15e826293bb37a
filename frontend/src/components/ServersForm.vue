<script setup lang="ts">
import { computed } from 'vue'
import type { Servers } from '../api/client'

const wanted = defineModel<Servers>({ required: true })
defineProps<{ keepers: { keyring: boolean; sealed: boolean }; known?: boolean }>()

const SECURITIES = [
  { value: 'tls', text: 'TLS from the start' },
  { value: 'starttls', text: 'STARTTLS' },
  { value: 'plain', text: 'none (this machine only)' },
]
const domain = computed(() => wanted.value.address.trim().split('@')[1] ?? '')

/** What most providers do, until the owner says otherwise. */
function guess(): void {
  const now = wanted.value
  if (!domain.value) return
  if (!now.user) now.user = now.address.trim()
  if (!now.imap_host) now.imap_host = `imap.${domain.value}`
  if (!now.smtp_host) now.smtp_host = `smtp.${domain.value}`
}
</script>

<template>
  <div class="servers">
    <div class="field-row">
      <div>
        <label for="box-address">Address</label>
        <input
          id="box-address"
          v-model="wanted.address"
          class="form-control"
          type="email"
          required
          autocomplete="email"
          spellcheck="false"
          :readonly="known"
          @change="guess"
        />
      </div>
      <div>
        <label for="box-name">Your name, as others read it</label>
        <input id="box-name" v-model="wanted.name" class="form-control" autocomplete="name" />
      </div>
    </div>
    <div class="field-row">
      <div>
        <label for="box-user">User name at the server</label>
        <input id="box-user" v-model="wanted.user" class="form-control" required spellcheck="false" />
      </div>
      <div>
        <label for="box-secret"
          >{{ wanted.bearer ? 'Token' : 'Password or app password'
          }}<template v-if="known"> (empty: the one that is kept)</template></label
        >
        <input
          id="box-secret"
          v-model="wanted.secret"
          class="form-control"
          type="password"
          :required="!known"
          autocomplete="off"
        />
      </div>
    </div>
    <BFormCheckbox id="box-bearer" v-model="wanted.bearer"
      >The secret is a token (OAuth), no password</BFormCheckbox
    >
    <fieldset>
      <legend>Reading (IMAP)</legend>
      <div class="field-row three">
        <input
          v-model="wanted.imap_host"
          aria-label="IMAP server"
          class="form-control"
          required
          spellcheck="false"
        />
        <input
          v-model.number="wanted.imap_port"
          aria-label="IMAP port"
          class="form-control"
          type="number"
          min="1"
          max="65535"
          required
        />
        <select v-model="wanted.imap_security" aria-label="IMAP encryption" class="form-select">
          <option v-for="one in SECURITIES" :key="one.value" :value="one.value">{{ one.text }}</option>
        </select>
      </div>
    </fieldset>
    <fieldset>
      <legend>Sending (SMTP)</legend>
      <div class="field-row three">
        <input
          v-model="wanted.smtp_host"
          aria-label="SMTP server"
          class="form-control"
          required
          spellcheck="false"
        />
        <input
          v-model.number="wanted.smtp_port"
          aria-label="SMTP port"
          class="form-control"
          type="number"
          min="1"
          max="65535"
          required
        />
        <select v-model="wanted.smtp_security" aria-label="SMTP encryption" class="form-select">
          <option v-for="one in SECURITIES" :key="one.value" :value="one.value">{{ one.text }}</option>
        </select>
      </div>
    </fieldset>
    <fieldset>
      <legend>Where the secret is kept</legend>
      <BFormRadioGroup v-model="wanted.kept" stacked name="kept">
        <BFormRadio value="keyring" :disabled="!keepers.keyring"
          >In this system's keyring<template v-if="!keepers.keyring"
            >, which it does not have</template
          ></BFormRadio
        >
        <BFormRadio value="sealed" :disabled="!keepers.sealed"
          >In a file sealed with your sign-in password: after a restart you sign in once before mail is
          read<template v-if="!keepers.sealed"> (no sign-in here)</template></BFormRadio
        >
        <BFormRadio value="file"
          >In a plain file that only your account on this machine can read: anybody who can read your files
          can read it</BFormRadio
        >
      </BFormRadioGroup>
    </fieldset>
  </div>
</template>
