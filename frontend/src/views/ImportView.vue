<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { client, MARK, unwrap, type ImportJob } from '../api/client'
import FirstRound from '../components/FirstRound.vue'
import HistoryFound from '../components/HistoryFound.vue'
import OwnAddresses from '../components/OwnAddresses.vue'
import { useStatus } from '../composables/events'
import { bytes, exact, near } from '../lib/time'

const queries = useQueryClient()
const router = useRouter()
const { importing } = useStatus()
const { data: jobs } = useQuery({ queryKey: ['imports'], queryFn: () => unwrap(client.GET('/api/imports')) })
const problem = ref('')
const sending = ref(0)
const sendingTotal = ref(0)
const over = ref(false)
const mine = ref(true)
const STATES: Record<string, string> = {
  reading: 'reading',
  weighing: 'weighing with the whole history',
  done: 'done',
  failed: 'failed',
}

const running = computed(() => {
  const job = importing.value
  return job && (job.state === 'reading' || job.state === 'weighing') ? job : null
})
const share = computed(() => {
  const job = running.value
  return job?.bytes_total ? Math.min(1, (job.bytes_done ?? 0) / job.bytes_total) : 0
})

const imported = computed(() => !running.value && jobs.value?.some((job) => job.state === 'done'))
/** Nothing is left to ask: lessons enough, or no mail it could ask about. */
const quiet = ref(false)

watch(
  () => importing.value?.state,
  () => {
    quiet.value = false
    for (const key of ['imports', 'round', 'history']) void queries.invalidateQueries({ queryKey: [key] })
  },
)

function bring(files: FileList | File[] | null | undefined): void {
  if (!files?.length) return
  problem.value = ''
  const form = new FormData()
  for (const file of files) form.append('files', file)
  form.append('mine', String(mine.value))
  const request = new XMLHttpRequest()
  request.open('POST', '/api/imports')
  for (const [name, value] of Object.entries(MARK)) request.setRequestHeader(name, value)
  request.upload.onprogress = (event) => {
    sending.value = event.loaded
    sendingTotal.value = event.total
  }
  request.onerror = () =>
    finish('The server does not answer. Check that Hieranome is running, then drop the files again.')
  request.onload = () => finish(request.status < 300 ? '' : reason(request.responseText))
  request.send(form)
}

function reason(text: string): string {
  try {
    return String((JSON.parse(text) as { detail: unknown }).detail)
  } catch {
    return 'The files were not taken. Drop them again; if it stays, look at what the server printed.'
  }
}

function finish(text: string): void {
  problem.value = text
  sendingTotal.value = 0
  void queries.invalidateQueries({ queryKey: ['imports'] })
}

function dropped(event: DragEvent): void {
  over.value = false
  bring(event.dataTransfer?.files)
}

function chosen(event: Event): void {
  const input = event.target as HTMLInputElement
  bring(input.files)
  input.value = ''
}

function outcome(job: ImportJob): string {
  return job.state === 'failed' ? job.error : `${job.added} new, ${job.known} here already`
}
</script>

<template>
  <div class="page">
    <header class="page-head">
      <h1>Import mail</h1>
      <p>
        Mailbox files (mbox) and single messages (.eml), as many as you like. Nothing leaves this machine,
        every byte is kept, and importing the same mail twice adds nothing.
      </p>
    </header>
    <label
      class="drop"
      :class="{ over }"
      @dragover.prevent="over = true"
      @dragleave="over = false"
      @drop.prevent="dropped"
    >
      <input type="file" multiple class="visually-hidden" @change="chosen" />
      <strong>Drop files here</strong>
      <span
        >or press to choose them. A Maildir or a folder goes in by the command
        <code>hieranome import</code>.</span
      >
    </label>
    <BFormCheckbox v-model="mine">Mail in them from my own addresses is mine: it goes to Sent</BFormCheckbox>
    <p class="note">
      Not sure yet? <RouterLink to="/try">Try it on your archive</RouterLink> first: nothing is stored.
    </p>
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <div v-if="sendingTotal" class="progress-line">
      <span>Handing over {{ bytes(sending) }} of {{ bytes(sendingTotal) }}</span>
      <progress :value="sending" :max="sendingTotal" aria-label="Handing over" />
    </div>
    <div v-if="running" class="progress-line" role="status">
      <span
        >{{ STATES[running.state ?? 'reading'] }}: {{ running.added }} messages,
        {{ bytes(running.bytes_done ?? 0) }} of {{ bytes(running.bytes_total ?? 0) }}</span
      >
      <progress :value="share" max="1" aria-label="Import" />
    </div>
    <template v-if="imported && !quiet">
      <OwnAddresses />
      <FirstRound next="go to the Desk" @done="router.push('/in/desk')" @nothing="quiet = true" />
      <HistoryFound :live="false" asked />
    </template>
    <table v-if="jobs?.length" class="ledger">
      <thead>
        <tr>
          <th>When</th>
          <th>State</th>
          <th>Outcome</th>
          <th class="number">Size</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="job in jobs" :key="job.id">
          <td>
            <time :title="exact(job.started_at)">{{ near(job.started_at) }}</time>
          </td>
          <td>{{ STATES[job.state] }}</td>
          <td>
            {{ outcome(job) }}
            <details v-if="job.skipped.length" class="skipped">
              <summary>{{ job.skipped.length }} passed over</summary>
              <ul>
                <li v-for="one in job.skipped" :key="one.path">
                  <bdi>{{ one.path }}</bdi>: {{ one.why }}
                </li>
              </ul>
            </details>
          </td>
          <td class="number">{{ bytes(job.bytes_total) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
