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
const SERVERS = [
  { kind: 'imap', name: 'IMAP', use: 'Reading' },
  { kind: 'smtp', name: 'SMTP', use: 'Sending' },
] as const
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
      >This is a token (OAuth), no password</BFormCheckbox
    >
    <fieldset v-for="one in SERVERS" :key="one.kind">
      <legend>{{ one.use }} ({{ one.name }})</legend>
      <div class="field-row three">
        <input
          v-model="wanted[`${one.kind}_host`]"
          :aria-label="`${one.name} server`"
          class="form-control"
          required
          spellcheck="false"
        />
        <input
          v-model.number="wanted[`${one.kind}_port`]"
          :aria-label="`${one.name} port`"
          class="form-control"
          type="number"
          min="1"
          max="65535"
          required
        />
        <select
          v-model="wanted[`${one.kind}_security`]"
          :aria-label="`${one.name} encryption`"
          class="form-select"
        >
          <option v-for="way in SECURITIES" :key="way.value" :value="way.value">{{ way.text }}</option>
        </select>
      </div>
    </fieldset>
    <fieldset>
      <legend>Where the password is kept</legend>
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
