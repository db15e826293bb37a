<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { client, unwrap, type FoundServers, type Servers } from '../api/client'
import { useAttempt } from '../composables/attempt'

const wanted = defineModel<Servers>({ required: true })
/** Whether the owner lets the password go to servers outside the address's own domain. */
const agreed = defineModel<boolean>('agreed', { default: true })
const props = defineProps<{ keepers: { keyring: boolean; sealed: boolean }; known?: boolean }>()

const SECURITIES = [
  { value: 'tls', text: 'TLS from the start' },
  { value: 'starttls', text: 'STARTTLS' },
  { value: 'plain', text: 'none (this machine only)' },
]
const SERVERS = [
  { kind: 'imap', name: 'IMAP', use: 'Reading' },
  { kind: 'smtp', name: 'SMTP', use: 'Sending' },
] as const
const BY = {
  dns: 'named by its DNS',
  published: 'named by a file it publishes',
  usual: 'found under the usual name',
}
const found = ref<FoundServers | null>(null)
/** Whether the servers are still looked for: until then there is nothing to try. */
const looking = defineModel<boolean>('looking', { default: false })
const { problem, busy, attempt } = useAttempt()
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
    <details class="servers-details" :open="open">
      <summary>Servers and user name</summary>
      <div class="field-row">
        <div>
          <label for="box-user">User name at the server</label>
          <input id="box-user" v-model="wanted.user" class="form-control" required spellcheck="false" />
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
    </details>
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
