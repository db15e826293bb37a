<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import ColumnHead from '../components/ColumnHead.vue'
import EffectStrip from '../components/EffectStrip.vue'
import { useVerbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { useKeyed } from '../composables/keyed'
import { usePlaces } from '../composables/places'
import { useTeaching } from '../composables/teaching'
import { by, chosenRows, START, useOldMail, weeks } from '../composables/oldMail'
import { bytes, exact } from '../lib/time'
import { ageWords, COLUMNS, lineOf, sorted, type Column } from '../lib/oldMail'

const router = useRouter()
const kept = ref(false)
const NUMBERS: ReadonlySet<Column> = new Set(['free', 'read', 'answered', 'yearly', 'kept'])
const { rows: found, others, othersSize, ages, loading, failed, putAway } = useOldMail(weeks, by)
const column = ref<Column>()
const against = ref(false)
const rows = computed(() => sorted(found.value, column.value, against.value))
const { titles } = usePlaces()
const teaching = useTeaching()
const { attempt, busy } = useAttempt(teaching.show)

const { currentKey, picked, at, current, chosen, toggle, clear, verbs } = useKeyed(rows, chosenRows)

/** The slider goes from one age to the next. */
const step = computed({
  get: () =>
    Math.max(
      0,
      ages.value.findIndex((one) => one.weeks === weeks.value),
    ),
  set: (to) => (weeks.value = ages.value[to]?.weeks ?? START),
})
const age = computed(() => ages.value[step.value])
const heaviest = computed(() => Math.max(1, ...rows.value.map((row) => row.free_size)))
const chosenFree = computed(() =>
  chosen.value.reduce((sum, row) => sum + row.free + (kept.value ? row.kept : 0), 0),
)
const chosenSize = computed(() =>
  chosen.value.reduce((sum, row) => sum + row.free_size + (kept.value ? row.kept_size : 0), 0),
)

watch([weeks, by], clear)
watch(at, () =>
  nextTick(() => document.querySelector('.weight.current')?.scrollIntoView({ block: 'nearest' })),
)

/** The years mail came in. */
function years(from: number, to: number): string {
  const [first, last] = [from, to].map((at) => new Date(at * 1000).getFullYear())
  return first === last ? `${first}` : `${first} to ${last}`
}

function order(name: Column): void {
  against.value = column.value === name && !against.value
  column.value = name
}

function open(): void {
  const row = current.value
  if (row) void router.push({ name: 'search', query: { line: lineOf(row.key, weeks.value), order: 'time' } })
}

async function trash(): Promise<void> {
  const keys = chosen.value.map((row) => row.key)
  if (!keys.length && currentKey.value) keys.push(currentKey.value)
  if (!keys.length || busy.value) return
  await attempt(async () => {
    const gone = await putAway(keys, kept.value)
    clear()
    teaching.tell(`${gone.step.title}.`)
  })
}

useVerbs({ ...verbs, open, trash })
</script>

<template>
  <div class="subscriptions old-mail">
    <header class="subscriptions-head">
      <h1>Old mail</h1>
      <p class="subscriptions-count" role="status">
        <template v-if="age"
          >older than {{ ageWords(age.weeks) }}: <strong>{{ age.messages.toLocaleString() }}</strong>
          {{ age.messages === 1 ? 'message' : 'messages' }}, {{ bytes(age.size) }}</template
        >
      </p>
      <label>
        <span class="visually-hidden">Grouped by</span>
        <select v-model="by" class="form-select" @change="($event.target as HTMLSelectElement).blur()">
          <option value="source">by sender or list</option>
          <option value="domain">by domain</option>
        </select>
      </label>
      <div v-if="ages.length" class="weigh-ages">
        <input
          v-model.number="step"
          type="range"
          min="0"
          :max="ages.length - 1"
          step="1"
          aria-label="Age of the mail"
          :aria-valuetext="ageWords(weeks)"
        />
        <ol aria-hidden="true">
          <li v-for="(one, index) in ages" :key="one.weeks" :class="{ on: index === step }">
            {{ ageWords(one.weeks) }}<span>{{ bytes(one.size) }}</span>
          </li>
        </ol>
      </div>
    </header>
    <div class="subscriptions-list" role="table" aria-label="Old mail by size and number">
      <div class="weight weight-titles" role="row">
        <ColumnHead
          v-for="one in COLUMNS"
          :key="one.name"
          :class="{ number: NUMBERS.has(one.name) }"
          :title="one.title"
          :on="column === one.name"
          :against="against"
          @order="order(one.name)"
        />
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
        ><input v-model="kept" type="checkbox" class="form-check-input" /> also protected mail (vouched for,
        flagged, answered, decided on, in a folder)</label
      >
    </footer>
    <EffectStrip :titles="titles" />
  </div>
</template>
