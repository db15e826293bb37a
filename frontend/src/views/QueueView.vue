<script setup lang="ts">
import { useLocalStorage, useNow } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import ActBar from '../components/ActBar.vue'
import EffectStrip from '../components/EffectStrip.vue'
import QueueForm from '../components/QueueForm.vue'
import { useVerbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { timedFor, useFollowing } from '../composables/following'
import { useKeyed } from '../composables/keyed'
import { usePlaces } from '../composables/places'
import { useQueue, useQueues, useQueueWork } from '../composables/queues'
import { useTeaching, type Chosen } from '../composables/teaching'
import type { QueueGiven } from '../api/client'
import { age, beside, cells, emptyQueue, givenQueue } from '../lib/queues'
import { exact } from '../lib/time'
import { senderName, subjectOf } from '../lib/words'

const MINUTE = 60_000
const ACTS = [
  ['state-back', 'Back'],
  ['state-next', 'Next state'],
  ['open', 'Open'],
  ['due', 'Due'],
  ['park', 'Park'],
  ['archive', 'Archive'],
] as const
const route = useRoute()
const router = useRouter()
const { titles } = usePlaces()
const { all, known, failed, keep, remove } = useQueues()
const teaching = useTeaching()
const { setDue, park, done } = useFollowing()
const { stepOn, bring } = useQueueWork()
const { answer, attempt, busy, problem } = useAttempt()
const number = computed(() => Number(route.params.queue || 0) || (all.value[0]?.id ?? 0))
const { data: shown, error } = useQueue(number)
const shape = useLocalStorage<'columns' | 'list'>('hieranome-queue', 'columns')
const now = useNow({ interval: MINUTE })
const written = ref<QueueGiven>()
const fresh = ref(false)
const dragged = ref('')
const over = ref(-1)
const queue = computed(() => all.value.find((one) => one.id === number.value))
const rows = computed(() => cells(shown.value))
const { currentKey, picked, current, chosen: marked, verbs, clear } = useKeyed(rows)
const chosen = computed<Chosen>(() => {
  const those = marked.value.length ? marked.value : current.value ? [current.value] : []
  return { ids: those.map((one) => one.message.id), rows: those.map((one) => one.message), place: '' }
})

watch(
  () => current.value?.message.id ?? 0,
  (id) => (timedFor.value = id),
  { immediate: true },
)
watch(currentKey, () =>
  nextTick(() => document.querySelector('.queue .current')?.scrollIntoView({ block: 'nearest' })),
)

function write(one?: QueueGiven): void {
  fresh.value = !one
  written.value = one ?? emptyQueue()
  problem.value = ''
}

async function save(): Promise<void> {
  const given = written.value
  const kept = given && (await answer(() => keep(fresh.value ? 0 : number.value, given)))
  if (!kept) return
  written.value = undefined
  await router.replace({ name: 'queues', params: { queue: String(kept.id) } })
}

async function drop(): Promise<void> {
  if (!(await attempt(() => remove(number.value)))) return
  written.value = undefined
  teaching.show('The queue is removed. Its states stay as tags.')
  await router.replace({ name: 'queues' })
}

async function move(back: boolean): Promise<void> {
  const what = chosen.value
  if (current.value && shown.value && what.ids.length === 1) {
    const to = current.value.column + (back ? -1 : 1)
    if (to >= 0 && to < shown.value.columns.length) await bring(shown.value, what, to)
  } else await stepOn(what, back)
  clear()
}

function dropped(column: number): void {
  const row = rows.value.find((one) => one.key === dragged.value)
  over.value = -1
  dragged.value = ''
  if (row && shown.value)
    void bring(shown.value, { ids: [row.message.id], rows: [row.message], place: '' }, column)
}

function open(): void {
  const message = current.value?.message
  if (message)
    void router.push({ name: 'mail', params: { place: message.place, message: String(message.id) } })
}

useVerbs({
  ...verbs,
  'place-left': () => (currentKey.value = beside(rows.value, currentKey.value, -1)),
  'place-right': () => (currentKey.value = beside(rows.value, currentKey.value, 1)),
  'state-next': () => move(false),
  'state-back': () => move(true),
  open,
  due: (said = '') => setDue(chosen.value, said),
  park: (said = '') => park(chosen.value, said),
  done: () => done(chosen.value),
  archive: () => teaching.file(chosen.value, 'archive'),
  trash: () => teaching.file(chosen.value, 'trash'),
})
</script>

<template>
  <div class="follow queue">
    <header class="subscriptions-head">
      <h1>Queues</h1>
      <nav v-if="all.length" class="queue-names" aria-label="Your queues">
        <RouterLink
          v-for="one in all"
          :key="one.id"
          :to="{ name: 'queues', params: { queue: String(one.id) } }"
          :class="{ here: one.id === number }"
          :aria-current="one.id === number ? 'page' : undefined"
          :data-queue="one.name"
          ><bdi>{{ one.name }}</bdi></RouterLink
        >
      </nav>
      <span class="queue-shape">
        <template v-if="queue">
          <button
            v-for="one in ['columns', 'list'] as const"
            :key="one"
            type="button"
            class="quiet-button"
            :aria-pressed="shape === one"
            @click="shape = one"
          >
            {{ one === 'columns' ? 'Columns' : 'List' }}
          </button>
          <button type="button" class="quiet-button" @click="write(givenQueue(queue))">Change</button>
        </template>
        <button type="button" class="plain-button" data-act="new-queue" @click="write()">New queue</button>
      </span>
    </header>
    <p v-if="failed ?? error" class="list-note" role="alert">{{ (failed ?? error)?.message }}</p>
    <div v-else-if="written" class="queue-write">
      <QueueForm
        v-model="written"
        :kept="!fresh"
        :busy="busy"
        :problem="problem"
        @keep="save"
        @back="written = undefined"
        @remove="drop"
      />
    </div>
    <p v-else-if="known && !all.length" class="list-note">
      No queues yet. Where several cases pass through the same states (visas, bookings), make one of a bucket,
      a tray or a tag.
    </p>
    <p v-else-if="shown?.problem" class="list-note" role="alert">{{ shown.problem }}</p>
    <div v-else-if="shown" class="queue-columns" :class="shape" role="region" aria-label="Cases by state" tabindex="0">
      <section
        v-for="(column, at) in shown.columns"
        :key="at"
        class="queue-column"
        :class="{ over: over === at }"
        :aria-label="`${column.name}, ${column.total}`"
        :data-state="column.name"
        @dragover.prevent="over = at"
        @dragleave="over = -1"
        @drop.prevent="dropped(at)"
      >
        <h2>
          <bdi>{{ column.name }}</bdi> <span class="queue-count">{{ column.total }}</span>
        </h2>
        <ul role="listbox" :aria-label="column.name" aria-multiselectable="true">
          <li
            v-for="row in column.rows"
            :key="row.message.id"
            role="option"
            class="queue-row"
            :class="{
              current: String(row.message.id) === currentKey,
              picked: picked.has(String(row.message.id)),
            }"
            :aria-selected="picked.has(String(row.message.id)) || String(row.message.id) === currentKey"
            :data-message="row.message.id"
            draggable="true"
            @dragstart="dragged = String(row.message.id)"
            @click="currentKey = String(row.message.id)"
            @dblclick="((currentKey = String(row.message.id)), open())"
          >
            <bdi class="queue-sender">{{ senderName(row.message) }}</bdi>
            <time class="queue-age" :title="`in this state since ${exact(row.since)}`">{{
              age(row.since, now.getTime() / 1000)
            }}</time>
            <bdi class="queue-subject">{{ subjectOf(row.message.subject) }}</bdi>
          </li>
        </ul>
        <p v-if="!column.total" class="note">none</p>
        <p v-else-if="column.total > column.rows.length" class="note">
          and {{ column.total - column.rows.length }} that stand here less long
        </p>
      </section>
    </div>
    <footer v-if="current && !written" class="follow-foot">
      <ActBar label="What to do with the case" :acts="ACTS" />
    </footer>
    <EffectStrip :titles="titles" />
  </div>
</template>
