<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import BulkTabs from '../components/BulkTabs.vue'
import EffectStrip from '../components/EffectStrip.vue'
import { useVerbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { usePlaces } from '../composables/places'
import { useTeaching } from '../composables/teaching'
import { useWeighIn, type By } from '../composables/weighIn'
import { bytes, exact } from '../lib/time'
import { ageWords, lineOf } from '../lib/weighIn'

const START = 4
const router = useRouter()
const step = ref(START)
const weeks = ref(0)
const by = ref<By>('source')
const kept = ref(false)
const picked = ref<ReadonlySet<string>>(new Set())
const currentKey = ref('')
const { rows, others, othersSize, ages, loading, failed, putAway } = useWeighIn(weeks, by)
const { titles } = usePlaces()
const teaching = useTeaching()
const { attempt, busy } = useAttempt(teaching.show)

const AGES = [0, 4, 13, 26, 52, 104, 156, 260, 520]
const age = computed(() => ages.value[step.value])
const heaviest = computed(() => Math.max(1, ...rows.value.map((row) => row.free_size)))
const at = computed(() => rows.value.findIndex((row) => row.key === currentKey.value))
const chosen = computed(() => rows.value.filter((row) => picked.value.has(row.key)))
const chosenFree = computed(() =>
  chosen.value.reduce((sum, row) => sum + row.free + (kept.value ? row.kept : 0), 0),
)
const chosenSize = computed(() =>
  chosen.value.reduce((sum, row) => sum + row.free_size + (kept.value ? row.kept_size : 0), 0),
)

watch(step, (now) => (weeks.value = AGES[now] ?? 0), { immediate: true })
watch([weeks, by], () => (picked.value = new Set()))
watch(
  rows,
  (now) => {
    if (!now.some((row) => row.key === currentKey.value)) currentKey.value = now[0]?.key ?? ''
  },
  { immediate: true },
)

/** The years mail came in. */
function years(from: number, to: number): string {
  const [first, last] = [from, to].map((at) => new Date(at * 1000).getFullYear())
  return first === last ? `${first}` : `${first} to ${last}`
}

function go(to: number): void {
  const row = rows.value[Math.min(rows.value.length - 1, Math.max(0, to))]
  if (!row) return
  currentKey.value = row.key
  document.querySelector(`[data-weight="${CSS.escape(row.key)}"]`)?.scrollIntoView({ block: 'nearest' })
}

function toggle(key: string): void {
  const next = new Set(picked.value)
  if (!next.delete(key)) next.add(key)
  picked.value = next
}

function open(): void {
  const row = rows.value[at.value]
  if (row) void router.push({ name: 'search', query: { line: lineOf(row.key, weeks.value), order: 'time' } })
}

async function trash(): Promise<void> {
  const keys = chosen.value.map((row) => row.key)
  if (!keys.length && currentKey.value) keys.push(currentKey.value)
  if (!keys.length || busy.value) return
  await attempt(async () => {
    const gone = await putAway(keys, kept.value)
    picked.value = new Set()
    teaching.tell(`${gone.step.title}.`)
  })
}

useVerbs({
  next: () => go(at.value + 1),
  previous: () => go(at.value - 1),
  select: () => currentKey.value && toggle(currentKey.value),
  'select-all': () => (picked.value = new Set(rows.value.map((row) => row.key))),
  close: () => (picked.value = new Set()),
  open,
  trash,
})
</script>

<template>
  <div class="subscriptions weigh-in">
    <header class="subscriptions-head">
      <BulkTabs />
      <p class="subscriptions-count" role="status">
        <template v-if="age"
          >older than {{ ageWords(age.weeks) }}: <strong>{{ age.messages.toLocaleString() }}</strong>
          {{ age.messages === 1 ? 'message' : 'messages' }}, {{ bytes(age.size) }}</template
        >
      </p>
      <label>
        <span class="visually-hidden">Weighed by</span>
        <select v-model="by" class="form-select" @change="($event.target as HTMLSelectElement).blur()">
          <option value="source">by sender or list</option>
          <option value="domain">by domain</option>
        </select>
      </label>
      <div class="weigh-ages">
        <input
          v-model.number="step"
          type="range"
          min="0"
          :max="AGES.length - 1"
          step="1"
          aria-label="Age of the mail"
          :aria-valuetext="ageWords(AGES[step] ?? 0)"
        />
        <ol aria-hidden="true">
          <li v-for="(one, index) in ages" :key="one.weeks" :class="{ on: index === step }">
            {{ ageWords(one.weeks) }}<span>{{ bytes(one.size) }}</span>
          </li>
        </ol>
      </div>
    </header>
    <div class="subscriptions-list" role="table" aria-label="Old mail by weight">
      <div class="weight weight-titles" role="row">
        <span role="columnheader">From</span>
        <span role="columnheader" class="number">Messages</span>
        <span role="columnheader">Weight</span>
        <span role="columnheader" class="number">Read</span>
        <span role="columnheader" class="number">Answered</span>
        <span role="columnheader">Years</span>
        <span role="columnheader" class="number">A year</span>
        <span role="columnheader" class="number">Kept apart</span>
      </div>
      <p v-if="failed" class="list-note" role="alert">{{ failed.message }}</p>
      <p v-else-if="!rows.length && !loading" class="list-note">
        Nothing that old may go. Move the slider to the left, or come back in a while.
      </p>
      <div
        v-for="row in rows"
        :key="row.key"
        class="weight"
        role="row"
        :class="{ current: row.key === currentKey, picked: picked.has(row.key) }"
        :aria-current="row.key === currentKey ? 'true' : undefined"
        :aria-selected="picked.has(row.key)"
        :data-weight="row.key"
        @click="currentKey = row.key"
        @dblclick="open"
      >
        <span role="cell" class="weight-name">
          <input
            type="checkbox"
            class="form-check-input"
            :checked="picked.has(row.key)"
            :aria-label="`Choose ${row.name}`"
            @change="toggle(row.key)"
          />
          <bdi class="subscription-name">{{ row.name }}</bdi>
        </span>
        <span role="cell" class="number">{{ row.free.toLocaleString() }}</span>
        <span role="cell" class="weight-bar">
          <i aria-hidden="true"><i :style="{ width: `${(100 * row.free_size) / heaviest}%` }"></i></i>
          {{ bytes(row.free_size) }}
        </span>
        <span role="cell" class="number">{{ Math.round(100 * row.read) }}%</span>
        <span role="cell" class="number">{{ Math.round(100 * row.answered) }}%</span>
        <span role="cell" :title="`${exact(row.oldest)} to ${exact(row.newest)}`">{{
          years(row.oldest, row.newest)
        }}</span>
        <span role="cell" class="number">{{ Math.round(row.yearly) }}</span>
        <span role="cell" class="number">{{ row.kept ? `${row.kept}, ${bytes(row.kept_size)}` : '' }}</span>
      </div>
      <p v-if="others" class="list-note">{{ others }} lighter ones hold {{ bytes(othersSize) }} more.</p>
    </div>
    <footer class="weigh-bar" role="group" aria-label="What is chosen">
      <button
        type="button"
        class="strong-button"
        :disabled="busy || !chosen.length"
        data-act="put-away"
        @click="trash"
      >
        {{
          chosen.length
            ? `Put ${chosenFree.toLocaleString()} messages, ${bytes(chosenSize)}, in the Trash`
            : 'Choose what may go'
        }}
      </button>
      <label
        ><input v-model="kept" type="checkbox" class="form-check-input" /> also what is kept apart (vouched
        for, flagged, answered, decided on, in a folder)</label
      >
    </footer>
    <EffectStrip :titles="titles" />
  </div>
</template>
