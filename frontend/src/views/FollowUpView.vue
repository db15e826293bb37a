<script setup lang="ts">
import { useNow } from '@vueuse/core'
import { computed, nextTick, watch } from 'vue'
import { useRouter } from 'vue-router'
import ActBar from '../components/ActBar.vue'
import EffectStrip from '../components/EffectStrip.vue'
import FollowDays from '../components/FollowDays.vue'
import FollowUpSettings from '../components/FollowUpSettings.vue'
import OwedList from '../components/OwedList.vue'
import { useVerbs } from '../composables/actions'
import { useDrafts } from '../composables/drafts'
import { timedFor, useFollowing, useFollowUp, useOwed } from '../composables/following'
import { useKeyed } from '../composables/keyed'
import { usePlaces } from '../composables/places'
import { useTeaching, type Chosen } from '../composables/teaching'
import type { ActionName } from '../lib/actions'
import { daysOf, type FollowMessage } from '../lib/follow-days'

interface Row {
  key: string
  kind: 'due' | 'parked' | 'awaited' | 'they' | 'you'
  message: FollowMessage
  promised: boolean
  proposed: string
}

const MINUTE = 60_000
const router = useRouter()
const { titles } = usePlaces()
const { data, error } = useFollowUp()
const { data: owed, error: failed } = useOwed()
const { setDue, park, done, awaitAnswer, letGo, askAgain } = useFollowing()
const teaching = useTeaching()
const { begin } = useDrafts()
const now = useNow({ interval: MINUTE })
const they = computed(() => owed.value?.they ?? [])
const you = computed(() => owed.value?.you ?? [])
const days = computed(() => (data.value ? daysOf(data.value, they.value, now.value) : []))
const rows = computed<Row[]>(() => [
  ...days.value.flatMap((day) => day.lines.map((one) => ({ ...one, promised: false, proposed: '' }))),
  ...they.value.map((one) => ({ ...one, key: `they ${one.message.id}`, kind: 'they' as const })),
  ...you.value.map((one) => ({ ...one, key: `you ${one.message.id}`, kind: 'you' as const })),
])
const { currentKey, current, verbs } = useKeyed(rows)
const chosen = computed<Chosen>(() => {
  const message = current.value?.message
  return { ids: message ? [message.id] : [], rows: message ? [message] : [], place: message?.place ?? '' }
})
const acts = computed<[ActionName, string][]>(() => {
  const kind = current.value?.kind
  const own = kind === 'they' || kind === 'awaited'
  return [
    ['open', 'Open'],
    ['due', 'Due'],
    ['park', 'Park'],
    ...(own
      ? ([
          ['await', 'Reminder if no answer'],
          ['ask-again', 'Ask again'],
        ] as [ActionName, string][])
      : []),
    ...(kind === 'you' ? ([['reply', 'Reply']] as [ActionName, string][]) : []),
    ['done', kind === 'they' || kind === 'you' || kind === 'awaited' ? 'Nothing owed' : 'Done'],
  ]
})

watch(
  () => current.value?.message.id ?? 0,
  (id) => (timedFor.value = id),
  { immediate: true },
)
watch(currentKey, () =>
  nextTick(() => document.querySelector('.follow .current')?.scrollIntoView({ block: 'nearest' })),
)

function open(): void {
  const message = current.value?.message
  if (message)
    void router.push({ name: 'mail', params: { place: message.place, message: String(message.id) } })
}

function finish(): void {
  const one = current.value
  if (!one) return
  if (one.kind === 'parked') teaching.show('It is parked: put it anywhere, and it is parked no more.')
  else if (one.kind === 'due') void done(chosen.value)
  else void letGo(chosen.value, one.promised)
}

useVerbs({
  next: verbs.next,
  previous: verbs.previous,
  open,
  due: (said = '') => setDue(chosen.value, said),
  park: (said = '') => park(chosen.value, said),
  'park-answer': () => park(chosen.value, '', true),
  await: (said = '') => awaitAnswer(chosen.value, said),
  done: finish,
  'ask-again': () => current.value && askAgain(current.value.message.id),
  reply: () => current.value && begin('reply', current.value.message.id),
  archive: () => teaching.file(chosen.value, 'archive'),
  trash: () => teaching.file(chosen.value, 'trash'),
})
</script>

<template>
  <div class="follow">
    <header class="subscriptions-head">
      <h1>Follow-up</h1>
      <p class="subscriptions-count" role="status">
        <template v-if="data && owed"
          >{{ data.due.length }} due, {{ data.parked.length }} parked, {{ they.length }} owed to you,
          {{ you.length }} by you</template
        >
      </p>
    </header>
    <p v-if="error ?? failed" class="list-note" role="alert">{{ (error ?? failed)?.message }}</p>
    <div v-else class="follow-body">
      <FollowDays
        v-if="data"
        :days="days"
        :current-key="currentKey"
        @current="currentKey = $event"
        @open="open"
      />
      <div v-if="owed" class="follow-owed">
        <OwedList
          title="Waiting for"
          side="they"
          :lines="they"
          :now="owed.now"
          :current-key="currentKey"
          @current="currentKey = $event"
          @open="open"
        />
        <OwedList
          title="To answer"
          side="you"
          :lines="you"
          :now="owed.now"
          :current-key="currentKey"
          @current="currentKey = $event"
          @open="open"
        />
      </div>
    </div>
    <footer class="follow-foot">
      <ActBar v-if="current" label="What to do with the line" :acts="acts" />
      <FollowUpSettings />
    </footer>
    <EffectStrip :titles="titles" />
  </div>
</template>
