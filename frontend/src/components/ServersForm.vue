<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { client, unwrap, type Certificate, type FoundServers, type Servers } from '../api/client'
import { SECURITIES } from '../lib/words'
import AuthoriseForm from './AuthoriseForm.vue'
import { useAttempt } from '../composables/attempt'

const wanted = defineModel<Servers>({ required: true })
/** Whether the owner lets the password go to servers outside the address's own domain. */
const agreed = defineModel<boolean>('agreed', { default: true })
const props = defineProps<{
  keepers: { keyring: boolean; sealed: boolean }
  known?: boolean
  /** Where a known mailbox was authorised. */
  before?: { authorise_url: string; token_url: string; client_id: string; scope: string }
  /** The certificate the last try was refused for. */
  certificate?: Certificate | null
}>()

const SERVERS = [
  { kind: 'imap', name: 'IMAP', use: 'Reading' },
  { kind: 'smtp', name: 'SMTP', use: 'Sending' },
] as const
const BY = {
  dns: 'named by its DNS',
  published: 'named by a file it publishes',
  usual: 'found under the usual name',
}
const WAYS = [
  { value: 'password', text: 'A password or app password' },
  { value: 'authorise', text: 'An authorisation in the browser (OAuth)' },
  { value: 'token', text: 'A token of my own' },
] as const
const way = ref<(typeof WAYS)[number]['value']>(
  props.before?.token_url ? 'authorise' : wanted.value.bearer ? 'token' : 'password',
)
watch(way, (now) => {
  wanted.value.bearer = now !== 'password'
  wanted.value.secret = ''
  wanted.value.authorisation = ''
})
const found = ref<FoundServers | null>(null)
/** Whether the servers are still looked for: until then there is nothing to try. */
const looking = defineModel<boolean>('looking', { default: false })
const { problem, busy, attempt } = useAttempt()
/** Which server showed that certificate. */
const shownBy = computed(() => {
  const shown = props.certificate
  return SERVERS.find(
    ({ kind }) =>
      shown && wanted.value[`${kind}_host`] === shown.host && wanted.value[`${kind}_port`] === shown.port,
  )
})
// A fingerprint is trusted for the one server it was shown by.
for (const { kind } of SERVERS)
  watch(
    () => `${wanted.value[`${kind}_host`]} ${wanted.value[`${kind}_port`]}`,
    () => (wanted.value[`${kind}_pin`] = ''),
  )
watch(busy, (now) => (looking.value = now))
const domain = computed(() => wanted.value.address.trim().split('@')[1] ?? '')
const whole = computed(() => Boolean(found.value?.imap && found.value.smtp))
/** The fields of the servers lie open where there is something to enter in them. */
const open = computed(() =>
  Boolean(
    props.known || problem.value || (found.value && !whole.value) || (!found.value && wanted.value.imap_host),
  ),
)
const failures = computed(() => found.value?.tried.filter((one) => one.why) ?? [])

/** Looks for the servers of the address; only its domain is asked for, and no password goes anywhere. */
async function find(): Promise<void> {
  if (props.known) return
  found.value = null
  agreed.value = true
  // The password never goes to servers of the address that stood here before.
  Object.assign(wanted.value, { imap_host: '', smtp_host: '', user: '' })
  if (!domain.value) return
  await attempt(async () => {
    const asked = wanted.value.address
    const told = await unwrap(client.POST('/api/mailboxes/find', { body: { address: asked } }))
    if (wanted.value.address !== asked) return
    found.value = told
    agreed.value = told.foreign.length === 0
    const now = wanted.value
    now.user = told.user
    for (const { kind } of SERVERS) {
      const one = told[kind]
      if (!one) continue
      now[`${kind}_host`] = one.host
      now[`${kind}_port`] = one.port
      now[`${kind}_security`] = one.security
    }
  })
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
          @change="find"
        />
      </div>
      <div>
        <label for="box-name">Your name, as others read it</label>
        <input id="box-name" v-model="wanted.name" class="form-control" autocomplete="name" />
      </div>
    </div>
    <p v-if="busy" class="note" role="status">Looking for the servers of {{ domain }} …</p>
    <p v-else-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <div v-else-if="found" class="servers-found" role="status">
      <p v-for="one in SERVERS" :key="one.kind">
        <template v-if="found[one.kind]"
          >{{ one.use }}: <strong>{{ found[one.kind]!.host }}</strong>, {{ BY[found[one.kind]!.how] }},
          encrypted.</template
        ><template v-else>{{ one.use }}: no server of {{ domain }} answered. Enter it below.</template>
      </p>
      <BFormCheckbox v-if="found.foreign.length" id="box-foreign" v-model="agreed"
        >{{ found.foreign.join(' and ') }} {{ found.foreign.length > 1 ? 'are' : 'is' }} not of {{ domain }}:
        my password may go there</BFormCheckbox
      >
      <details v-if="failures.length && !whole">
        <summary>What was tried</summary>
        <ul>
          <li v-for="one in failures" :key="one.what">{{ one.what }}: {{ one.why }}</li>
        </ul>
      </details>
    </div>
    <div class="field-row">
      <div v-if="way !== 'authorise'">
        <label for="box-secret"
          >{{ wanted.bearer ? 'Token' : 'Password or app password'
          }}<template v-if="known"> (empty: the saved one)</template></label
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
      <div>
        <label for="box-way">Sign-in method</label>
        <select id="box-way" v-model="way" class="form-select">
          <option v-for="one in WAYS" :key="one.value" :value="one.value">{{ one.text }}</option>
        </select>
      </div>
    </div>
    <AuthoriseForm v-if="way === 'authorise'" v-model="wanted.authorisation!" :before="before" />
    <details class="servers-details" :open="open">
      <summary>Servers and user name</summary>
      <div class="field-row">
        <div>
          <label for="box-user">User name at the server</label>
          <input id="box-user" v-model="wanted.user" class="form-control" required spellcheck="false" />
        </div>
      </div>
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
            <option v-for="kind in SECURITIES" :key="kind.value" :value="kind.value">{{ kind.text }}</option>
          </select>
        </div>
        <p v-if="wanted[`${one.kind}_pin`]" class="note">
          Trusted by its fingerprint alone: <span class="fingerprint">{{ wanted[`${one.kind}_pin`] }}</span>
          <button type="button" class="quiet-button" @click="wanted[`${one.kind}_pin`] = ''">
            Trust it no longer
          </button>
        </p>
      </fieldset>
    </details>
    <section v-if="certificate && shownBy" class="servers-certificate" aria-label="The certificate">
      <dl>
        <dt>Shown by</dt>
        <dd>{{ certificate.host }}, port {{ certificate.port }} ({{ shownBy.name }})</dd>
        <dt>Issued by</dt>
        <dd>
          <bdi>{{ certificate.issuer }}</bdi>
        </dd>
        <dt>Valid</dt>
        <dd>from {{ certificate.first }} to {{ certificate.last }}</dd>
        <dt>SHA-256 fingerprint</dt>
        <dd class="fingerprint">{{ certificate.fingerprint }}</dd>
      </dl>
      <p class="note">
        Anybody between here and the server can show a certificate like this and read the password. Ask
        whoever runs the server for its fingerprint, by another way than this mailbox. If both are the same,
        it can be trusted: this certificate alone, for this server alone.
      </p>
      <BFormCheckbox
        id="box-trust"
        :model-value="wanted[`${shownBy.kind}_pin`] === certificate.fingerprint"
        @update:model-value="(on) => (wanted[`${shownBy!.kind}_pin`] = on ? certificate!.fingerprint : '')"
        >I have compared the fingerprint: trust it</BFormCheckbox
      >
    </section>
    <fieldset>
      <legend>Where the password is saved</legend>
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
