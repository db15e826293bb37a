<script setup lang="ts">
import { computed, nextTick, ref, toRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { client, unwrap, type Reach } from '../api/client'
import { useVerbs, type Verbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { noteRead, useEdition } from '../composables/editions'
import { useKeyed } from '../composables/keyed'
import { usePlaces } from '../composables/places'
import { useTeaching } from '../composables/teaching'
import { rowsOfEdition, type Entry, type Row } from '../lib/editions'
import type { ActionName } from '../lib/actions'
import { exact, near } from '../lib/time'
import { inPlace, REACH_WORDS, subjectOf } from '../lib/words'
import KeyCap from './KeyCap.vue'

const props = defineProps<{ number: number }>()

const router = useRouter()
const { edition, failed } = useEdition(toRef(props, 'number'))
const { titles } = usePlaces()
const teaching = useTeaching()
const { attempt } = useAttempt(teaching.show, (why) => teaching.show(why, meant))
const opened = ref<ReadonlySet<string>>(new Set())
const reach = ref<Reach>('message')
const root = ref<HTMLElement | null>(null)

const rows = computed(() => rowsOfEdition(edition.value, opened.value))
const { currentKey, at, current, go, verbs: walking } = useKeyed<Row>(rows)
const groups = computed(() => edition.value?.groups ?? [])
const count = computed(() => current.value?.entries.length ?? 0)
const what = computed(() => {
  const row = current.value
  if (!row) return ''
  if (row.kind === 'all') return `All ${count.value}`
  if (row.kind === 'group')
    return count.value === 1 ? 'This one' : `All ${count.value} of ${row.group?.title ?? ''}`
  return 'This message'
})

watch(
  () => edition.value?.id,
  (id) => {
    currentKey.value = 'all'
    opened.value = new Set()
    if (id && !edition.value?.read_at) void noteRead(id)
  },
  { immediate: true },
)
watch(currentKey, () =>
  nextTick(() => root.value?.querySelector('.current')?.scrollIntoView({ block: 'nearest' })),
)

/** Goes on behind what was dealt with: from a message to the next, from a group to the next group. */
function goOn(): void {
  const kind = current.value?.kind
  const next = rows.value.findIndex((row, index) => index > at.value && row.kind === kind)
  if (next >= 0) go(next)
}

function toggle(key: string): void {
  const next = new Set(opened.value)
  if (!next.delete(key)) next.add(key)
  opened.value = next
}

function open(): void {
  const row = current.value
  if (row?.kind === 'group') toggle(row.key)
  else if (row?.kind === 'entry' && row.entries[0]) show(row.entries[0])
}

function show(entry: Entry): void {
  void router.push(`/in/${entry.place}/${entry.message}`)
}

/** A click on a sentence leads to its message; selecting text of it does not. */
function unlessSelected(entry: Entry): void {
  if (!window.getSelection()?.toString()) show(entry)
}

const chosen = () => ({
  ids: current.value?.entries.map((one) => one.message) ?? [],
  rows: [],
  place: current.value?.entries[0]?.place ?? '',
})
const sources = () => [...new Set(current.value?.entries.map((one) => one.source))]

async function file(place: string): Promise<void> {
  const about = chosen()
  goOn()
  await teaching.file(about, place)
}

async function mark(): Promise<void> {
  const about = chosen()
  const unread = current.value?.entries.some((one) => !one.seen)
  goOn()
  await teaching.mark(about, unread ? 'read' : 'unread')
}

async function toDesk(): Promise<void> {
  const about = chosen()
  goOn()
  await teaching.put(about, 'desk', reach.value)
}

let meant: (() => Promise<void>) | undefined

async function refuse(): Promise<void> {
  const those = sources()
  const named =
    those.length === 1 ? (current.value?.entries[0]?.source_name ?? '') : `${those.length} senders and lists`
  goOn()
  await refuseAll(those, named)
}

async function refuseAll(those: string[], named: string, confirmed = false): Promise<void> {
  const body = { sources: those, belongs: 'drain', confirmed, chosen: false }
  meant = () => refuseAll(those, named, true)
  await attempt(async () => {
    const outcome = await unwrap(client.POST('/api/subscriptions/decide', { body }))
    teaching.tell(`All mail of ${named} ${inPlace('drain', titles.value)} from now on.`, outcome)
  })
}

async function leaveOut(): Promise<void> {
  const body = { sources: sources() }
  goOn()
  await attempt(async () => {
    const step = await unwrap(client.POST('/api/left-out', { body }))
    teaching.tell(`${step.title} from now on.`)
  })
}

const ACTS: readonly { name: ActionName; title: string; act: () => unknown }[] = [
  { name: 'put-0', title: 'To the Desk', act: toDesk },
  { name: 'seen', title: 'Read', act: mark },
  { name: 'archive', title: 'Archive', act: () => file('archive') },
  { name: 'trash', title: 'Trash', act: () => file('trash') },
  { name: 'leave-out', title: 'Not in editions', act: leaveOut },
  { name: 'refuse', title: 'Refuse', act: refuse },
]
const verbs: Verbs = {
  next: walking.next,
  previous: walking.previous,
  open,
  close: () => (currentKey.value = 'all'),
  reach: () => (reach.value = reach.value === 'message' ? 'learn' : 'message'),
}
for (const one of ACTS) verbs[one.name] = one.act
useVerbs(verbs)

/** Where a message of the edition is by now, if not where it was; whether it is dealt with. */
function where(entry: Entry): string {
  if (entry.place !== entry.stood) return inPlace(entry.place, titles.value)
  return entry.seen ? 'read' : ''
}
const keep = (form: string) => `/api/editions/${props.number}/file?form=${form}`
</script>

<template>
  <article class="edition" aria-label="Edition" :data-edition="edition?.id">
    <p v-if="failed" class="list-note" role="alert">{{ failed.message }}</p>
    <div v-if="edition" ref="root" class="edition-text">
      <header class="edition-head" :class="{ current: current?.kind === 'all' }" @click="currentKey = 'all'">
        <h2>
          <bdi>{{ edition.name }}</bdi>
        </h2>
        <p>
          <time :title="exact(edition.due)">{{ exact(edition.due) }}</time> · {{ edition.messages }}
          {{ edition.messages === 1 ? 'message' : 'messages' }} in {{ groups.length }}
          {{ groups.length === 1 ? 'group' : 'groups' }}
          <template v-if="edition.left_over"> · {{ edition.left_over }} more wait for the next</template>
          <span class="edition-keep"
            >keep as <a :href="keep('html')">HTML</a> <a :href="keep('markdown')">Markdown</a>
            <a :href="keep('text')">text</a></span
          >
        </p>
      </header>
      <section v-for="(group, index) in groups" :key="index" class="edition-group">
        <h3
          :class="{ current: currentKey === `group-${index}` }"
          :data-group="group.title"
          @click="currentKey = `group-${index}`"
        >
          <bdi>{{ group.title }}</bdi>
          <button
            v-if="group.others.length"
            type="button"
            class="quiet-button"
            :aria-expanded="opened.has(`group-${index}`)"
            @click.stop="toggle(`group-${index}`)"
          >
            {{ opened.has(`group-${index}`) ? 'fewer' : `${group.others.length} more` }}
          </button>
        </h3>
        <div
          v-for="entry in opened.has(`group-${index}`) ? [group.newest, ...group.others] : [group.newest]"
          :key="entry.message"
          class="edition-entry"
          :class="{ current: currentKey === `entry-${entry.message}`, done: where(entry) }"
          :aria-current="currentKey === `entry-${entry.message}` ? 'true' : undefined"
          :data-entry="entry.message"
          @click="currentKey = `entry-${entry.message}`"
        >
          <p class="edition-subject">
            <RouterLink :to="`/in/${entry.place}/${entry.message}`"
              ><bdi>{{ subjectOf(entry.subject) }}</bdi></RouterLink
            >
            <span class="edition-who">
              <bdi v-if="entry.sender !== group.title">{{ entry.sender }}, </bdi>{{ near(entry.time) }}
              <em v-if="where(entry)">{{ where(entry) }}</em>
            </span>
          </p>
          <p v-if="entry.sentences.length" class="edition-extract" dir="auto">
            <template v-for="(said, place) in entry.sentences" :key="place">
              <span v-if="place" aria-hidden="true"> … </span
              ><span class="edition-said" @click="unlessSelected(entry)">{{ said }}</span>
            </template>
          </p>
        </div>
      </section>
      <footer class="edition-end">
        <h3>Since {{ near(edition.end.since) }}</h3>
        <p>
          <template v-if="edition.end.came.length"
            >Came: {{ edition.end.came.map((one) => `${one.title} ${one.count}`).join(', ') }}.</template
          >
          <template v-else>Nothing came.</template>
          {{
            edition.end.lessons === 1
              ? 'You gave one lesson.'
              : `You gave ${edition.end.lessons || 'no'} lessons.`
          }}
        </p>
        <template v-if="edition.end.steps.length">
          <h3>Moved, and why</h3>
          <ul>
            <li v-for="(step, index) in edition.end.steps" :key="index">
              <bdi>{{ step.title }}</bdi>
              <span class="edition-who"
                >{{ step.messages }} {{ step.messages === 1 ? 'message' : 'messages' }},
                {{ near(step.at) }}</span
              >
            </li>
            <li v-if="edition.end.more_steps">
              <RouterLink to="/journal">and {{ edition.end.more_steps }} more in the journal</RouterLink>
            </li>
          </ul>
        </template>
        <p v-if="edition.end.leaving">
          {{ edition.end.leaving }} {{ edition.end.leaving === 1 ? 'message leaves' : 'messages leave' }} the
          <RouterLink to="/in/drain">Drain</RouterLink> this week.
        </p>
        <template v-if="edition.end.asked">
          <h3>Waiting in Your call</h3>
          <ul>
            <li v-for="(question, index) in edition.end.questions" :key="index">
              <bdi>{{ question }}</bdi>
            </li>
            <li v-if="edition.end.asked > edition.end.questions.length">
              and {{ edition.end.asked - edition.end.questions.length }} more
            </li>
          </ul>
        </template>
      </footer>
    </div>
    <div v-if="edition" class="edition-bar" role="group" :aria-label="what">
      <span class="verdict-label">{{ what }}</span>
      <button
        v-for="one in ACTS"
        :key="one.name"
        type="button"
        class="verdict-button"
        :data-act="one.name"
        @click="one.act()"
      >
        <KeyCap :of="one.name" />{{ one.title }}
      </button>
      <button
        type="button"
        class="quiet-button"
        title="How far the lesson reaches when something is brought to the Desk"
        data-act="reach"
        @click="verbs.reach?.()"
      >
        <KeyCap of="reach" />
        {{ reach === 'message' && count > 1 ? 'these messages only' : REACH_WORDS[reach] }}
      </button>
    </div>
  </article>
</template>
