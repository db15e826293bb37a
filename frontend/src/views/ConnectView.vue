<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { client, unwrap, type Probe, type Servers } from '../api/client'
import BucketChoice from '../components/BucketChoice.vue'
import FirstRound from '../components/FirstRound.vue'
import HistoryFound from '../components/HistoryFound.vue'
import ServersForm from '../components/ServersForm.vue'
import WhereItGoes from '../components/WhereItGoes.vue'
import { useMailboxes } from '../composables/mailboxes'
import { usePlaces } from '../composables/places'
import { useAttempt } from '../composables/attempt'

const ROLES: Record<string, string> = {
  inbox: 'the Desk',
  sent: 'Sent',
  drafts: 'Drafts',
  archive: 'Archive',
  junk: 'Junk',
  trash: 'Trash',
}
const STEPS = ['Your address', 'What is there', 'The history', 'First answers', 'Where mail goes']

const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
const { mailboxes, loaded, keepers, refresh, route: setRouting, pause } = useMailboxes()
const { data: about } = useQuery({ queryKey: ['about'], queryFn: () => unwrap(client.GET('/api/about')) })

const wanted = ref<Servers>({
  address: '',
  name: '',
  user: '',
  bearer: false,
  secret: '',
  kept: 'file',
  imap_host: '',
  imap_port: 993,
  imap_security: 'tls',
  smtp_host: '',
  smtp_port: 465,
  smtp_security: 'tls',
  imap_pin: '',
  smtp_pin: '',
  authorisation: '',
})
const agreed = ref(true)
const looking = ref(false)
const probed = ref<Probe | null>(null)
const { problem, certificate, busy, attempt } = useAttempt()
const account = computed(() => Number(route.params.account || 0))
const mailbox = computed(() => mailboxes.value.find((one) => one.id === account.value))
const read = computed(() => mailbox.value?.state === 'watching')
/** Whether the first round is over, or the owner has had enough of it. */
const answered = ref(false)
watch(account, () => (answered.value = false))
const step = computed(() => {
  if (!account.value) return probed.value ? 1 : 0
  if (!read.value) return 2
  return answered.value || mailbox.value?.routing ? 4 : 3
})
const others = computed(() => probed.value?.folders.filter((one) => !ROLES[one.role] && !one.bucket) ?? [])
const { band, quiet } = usePlaces()
/** The titles of what has a folder beside the buckets'. */
const mirrored = computed(() => [
  ...band.value.filter((one) => one.name !== 'desk' && one.name !== 'undecided').map((one) => one.title),
  ...quiet.value.filter((one) => one.name === 'parked').map((one) => one.title),
])

/** What a folder of the server stands for here. */
function standing(one: Probe['folders'][number]): string {
  const role = ROLES[one.role]
  if (role) return role
  if (!one.bucket) return 'a folder of yours, left alone'
  if (mirrored.value.includes(one.bucket)) return one.bucket
  return `a folder of yours; add a bucket “${one.bucket}” below, and it is its folder again`
}

watch(keepers, (now) => (wanted.value.kept = now.keyring ? 'keyring' : now.sealed ? 'sealed' : 'file'), {
  immediate: true,
})
watch(
  about,
  (now) => {
    const guest = now?.guest
    if (!guest || wanted.value.address) return
    Object.assign(wanted.value, {
      address: guest.address,
      name: 'Maren Aldous, tours',
      user: guest.address,
      secret: guest.secret,
      imap_host: '127.0.0.1',
      imap_port: guest.imap_port,
      imap_security: 'plain',
      smtp_host: '127.0.0.1',
      smtp_port: guest.smtp_port,
      smtp_security: 'plain',
    })
  },
  { immediate: true },
)

const probe = () =>
  attempt(async () => {
    probed.value = await unwrap(client.POST('/api/mailboxes/probe', { body: wanted.value }))
  })
const connect = () =>
  attempt(async () => {
    const made = await unwrap(client.POST('/api/mailboxes', { body: wanted.value }))
    await refresh()
    await router.replace({ name: 'connect', params: { account: String(made.id) } })
  })
const hold = () =>
  attempt(async () => {
    if (mailbox.value) await pause(mailbox.value, !mailbox.value.paused)
  })
const letRoute = () =>
  attempt(async () => {
    if (mailbox.value) await setRouting(mailbox.value, true)
    void queries.invalidateQueries({ queryKey: ['places'] })
    await router.push('/in/desk')
  })
</script>

<template>
  <div class="page">
    <header class="page-head">
      <h1>Connect a mailbox</h1>
      <ol class="steps" aria-label="Steps">
        <li v-for="(title, at) in STEPS" :key="title" :aria-current="at === step ? 'step' : undefined">
          {{ title }}
        </li>
      </ol>
    </header>
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <form v-if="step === 0" class="settings wide" @submit.prevent="probe">
      <p v-if="about?.guest" class="note">
        This is a made-up mailbox on this machine; its servers run inside the demo. Press on to see it read.
      </p>
      <ServersForm
        v-model="wanted"
        v-model:agreed="agreed"
        v-model:looking="looking"
        :keepers="keepers"
        :certificate="certificate"
      />
      <p>
        <button
          type="submit"
          class="strong-button"
          :disabled="busy || looking || !agreed || !wanted.imap_host || !wanted.smtp_host"
        >
          {{ busy ? 'Trying …' : 'Try it' }}
        </button>
        <RouterLink to="/import" class="beside">or import files instead</RouterLink>
      </p>
    </form>
    <section v-else-if="step === 1 && probed" class="settings wide" aria-label="What is there">
      <p>
        {{ wanted.imap_host }} let you in. It holds
        {{ probed.folders.reduce((sum, one) => sum + one.messages, 0) }} messages in
        {{ probed.folders.length }} folders<template v-if="probed.abilities.length"
          >; it {{ probed.abilities.slice(0, 4).join(', ') }}</template
        >.
      </p>
      <table class="ledger narrow">
        <thead>
          <tr>
            <th>Folder</th>
            <th>Stands here as</th>
            <th class="number">Messages</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in probed.folders" :key="one.name">
            <td>
              <bdi>{{ one.name }}</bdi>
            </td>
            <td>{{ standing(one) }}</td>
            <td class="number">{{ one.messages }}</td>
          </tr>
        </tbody>
      </table>
      <p class="note">
        All of it is read, newest first, and nothing is moved until you say so. The buckets will be folders
        under “Hieranome” that every mail program shows{{
          others.length ? '; folders of your own stay as they are' : ''
        }}.
      </p>
      <BucketChoice />
      <p>
        <button type="button" class="strong-button" :disabled="busy" @click="connect">
          {{ busy ? 'Connecting …' : 'Connect and read' }}
        </button>
        <button type="button" class="quiet-button" @click="probed = null">Back</button>
      </p>
    </section>
    <section v-else-if="mailbox && step === 2" class="settings wide" aria-label="Reading the history">
      <p role="status">
        {{
          mailbox.state === 'weighing'
            ? 'Everything is read. Now each message is scored with what the history says.'
            : `Reading ${mailbox.address}, newest first: ${mailbox.done} of ${mailbox.total} messages.`
        }}
      </p>
      <progress :value="mailbox.done" :max="Math.max(mailbox.total, 1)" aria-label="Reading" />
      <p v-if="mailbox.error" class="page-problem" role="alert">{{ mailbox.error }}</p>
      <p class="note">You can leave this page: it goes on by itself, and after a restart where it was.</p>
      <p>
        <button type="button" class="plain-button" @click="hold">
          {{ mailbox.paused ? 'Go on' : 'Pause' }}
        </button>
      </p>
      <HistoryFound :live="true" />
    </section>
    <template v-else-if="mailbox && step === 3">
      <FirstRound
        :mailbox="mailbox.id"
        next="show where mail would go"
        @done="answered = true"
        @nothing="answered = true"
      />
      <HistoryFound :live="false" />
    </template>
    <template v-else-if="mailbox">
      <WhereItGoes :mailbox="mailbox" :busy="busy" @on="letRoute" />
      <HistoryFound :live="false" />
    </template>
    <p v-else-if="loaded" class="note">
      There is no such mailbox. <RouterLink to="/connect">Connect one</RouterLink>.
    </p>
  </div>
</template>
