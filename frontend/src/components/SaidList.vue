<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { client, unwrap, type Said, type Taken } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { usePlaces } from '../composables/places'
import { useTeaching } from '../composables/teaching'
import { exact, near } from '../lib/time'
import { intoPlace } from '../lib/words'

const KEY = ['said']
const ENDS: Record<Said['what'], string> = {
  refused: 'Stop refusing',
  always: 'Stop',
  vouched: 'Remove',
  'no edition': 'Allow in editions',
}
type Kind = 'address' | 'list' | 'domain'
type Column = 'name' | 'what' | 'at' | 'came'

const queries = useQueryClient()
const { titles, takers } = usePlaces()
const { tell, show } = useTeaching()
const { attempt } = useAttempt(show, (why) => show(why, meant))
const { data } = useQuery({ queryKey: KEY, queryFn: () => unwrap(client.GET('/api/said')) })
const wanted = ref('')
const column = ref<Column>('at')
const rows = computed(() => {
  const word = wanted.value.trim().toLowerCase()
  const found = (data.value ?? []).filter((one) =>
    [one.name, one.key, one.words, titles.value[one.place] ?? ''].join(' ').toLowerCase().includes(word),
  )
  return [...found].sort((a, b) =>
    column.value === 'at' || column.value === 'came'
      ? b[column.value] - a[column.value]
      : a[column.value].localeCompare(b[column.value]),
  )
})

const taken = ref<Taken>()

async function read(event: Event): Promise<void> {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  if (!file) return
  const form = new FormData()
  form.append('file', file)
  field.value = ''
  taken.value = undefined
  const body = { file: file.name }
  await attempt(async () => {
    taken.value = await unwrap(client.POST('/api/said/file', { body, bodySerializer: () => form }))
  })
  await again()
}

async function again(): Promise<void> {
  for (const key of [KEY, ['vouched'], ['plans']]) await queries.invalidateQueries({ queryKey: key })
}

let meant: (() => Promise<void>) | undefined

async function change(one: Said, place: string, confirmed = false): Promise<void> {
  meant = () => change(one, place, true)
  const body = { kind: one.kind as Kind, key: one.key, place, confirmed }
  await attempt(async () => {
    const outcome = await unwrap(client.POST('/api/said/change', { body }))
    tell(`${one.name}: ${intoPlace(place, titles.value)} from now on.`, outcome)
  })
  await again()
}

/** The field shows what holds until something else does: it may ask first. */
function choose(one: Said, field: HTMLSelectElement): void {
  void change(one, field.value)
  field.value = one.place
}

async function end(one: Said): Promise<void> {
  const body = { kind: one.kind as Kind, key: one.key, what: one.what }
  const done = await attempt(async () => {
    const step = await unwrap(client.POST('/api/said/end', { body }))
    if (step) tell(`${step.title}.`)
  })
  if (done) await again()
}
</script>

<template>
  <section class="settings said" aria-label="What you said for good">
    <h2>What you said for good</h2>
    <p class="note">
      Senders, lists and domains whose mail does not wait for the model. Ending one moves no mail.
      <a href="/api/said/file" download="senders.csv">Save as CSV</a>
      <label class="plain-button said-file"
        >Read from CSV <input type="file" accept=".csv,text/csv" class="visually-hidden" @change="read"
      /></label>
    </p>
    <div v-if="taken" class="note" role="status">
      <p>
        {{ taken.added }} added, {{ taken.known }} said before<template v-if="taken.refused.length"
          >, {{ taken.refused.length }} not taken:</template
        ><template v-else>.</template>
      </p>
      <ul v-if="taken.refused.length">
        <li v-for="one in taken.refused.slice(0, 20)" :key="one.line">
          Line {{ one.line }}: <bdi>{{ one.why }}</bdi>
        </li>
        <li v-if="taken.refused.length > 20">and {{ taken.refused.length - 20 }} more</li>
      </ul>
    </div>
    <input
      v-model="wanted"
      type="search"
      class="form-control"
      aria-label="Search this list"
      placeholder="Search"
    />
    <table v-if="rows.length" class="ledger">
      <thead>
        <tr>
          <th
            v-for="[name, title] in [
              ['name', 'From'],
              ['what', 'Said'],
            ] as const"
            :key="name"
            :aria-sort="column === name ? 'ascending' : 'none'"
          >
            <button type="button" class="quiet-button" @click="column = name">{{ title }}</button>
          </th>
          <th>Goes</th>
          <th
            v-for="[name, title] in [
              ['at', 'Since'],
              ['came', 'Came since'],
            ] as const"
            :key="name"
            :class="{ number: name === 'came' }"
            :aria-sort="column === name ? 'descending' : 'none'"
          >
            <button type="button" class="quiet-button" @click="column = name">{{ title }}</button>
          </th>
          <th><span class="visually-hidden">End it</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in rows" :key="`${one.what} ${one.kind} ${one.key}`" :data-said="one.key">
          <td>
            <bdi>{{ one.name }}</bdi>
            <bdi v-if="one.name !== one.key" class="note said-key">{{ one.key }}</bdi>
            <span v-if="one.kind === 'domain'" class="note"> everybody there</span>
          </td>
          <td>
            {{ one.words }}
            <span v-if="one.by === 'elsewhere'" class="note"> in another program</span>
          </td>
          <td>
            <select
              v-if="one.what === 'refused' || one.what === 'always'"
              :value="one.place"
              :aria-label="`Where mail of ${one.name} goes`"
              @change="choose(one, $event.target as HTMLSelectElement)"
            >
              <option v-for="place in takers" :key="place.name" :value="place.name">{{ place.title }}</option>
              <option v-if="!takers.some((place) => place.name === one.place)" :value="one.place">
                {{ titles[one.place] ?? one.place }}
              </option>
            </select>
            <template v-else-if="one.place">{{ intoPlace(one.place, titles) }}</template>
          </td>
          <td>
            <time :title="exact(one.at)">{{ near(one.at) }}</time>
          </td>
          <td class="number">{{ one.came.toLocaleString() }}</td>
          <td class="act">
            <button
              type="button"
              class="plain-button"
              :aria-label="`${ENDS[one.what]}: ${one.name}`"
              @click="end(one)"
            >
              {{ ENDS[one.what] }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="data" class="note">
      {{
        data.length
          ? 'Nothing here has that word.'
          : 'Nothing yet. Refuse a sender, choose “always” for one, or vouch for one.'
      }}
    </p>
  </section>
</template>
