<script setup lang="ts">
import { computed, nextTick, ref, toRef, watch } from 'vue'
import type { Bounds, Message, Place, Source } from '../api/client'
import { useVerbs, type Verbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { usePlaces } from '../composables/places'
import { idsOf, useMailOf, useSources, type Ranked } from '../composables/sources'
import { useTeaching } from '../composables/teaching'
import { PUTS } from '../lib/actions'
import { exact, near } from '../lib/time'
import { oftenWords, subjectOf } from '../lib/words'
import KeyCap from './KeyCap.vue'
import MailRow from './MailRow.vue'

const props = defineProps<{
  place: string
  ranked: Ranked
  takers: readonly Place[]
  bounds: Bounds
  openId: number
  picked: ReadonlySet<number>
  label: string
}>()
const emit = defineEmits<{
  /** The mail that is gone through now: that of the opened source. */
  mail: [messages: readonly Message[]]
  show: [message?: number]
  select: [message: Message]
  extend: [message: Message]
  drag: [message: Message]
}>()

const place = toRef(props, 'place')
const teaching = useTeaching()
const { putOf, taker } = usePlaces()
const { answer, busy } = useAttempt(teaching.show)
const { sources, count, hasMore, loading, loadingMore, failed, more } = useSources(
  place,
  toRef(props, 'ranked'),
)
/** The source whose mail lies open, and the one that verbs are about. */
const opened = ref('')
const current = ref('')
/** Whether a verdict holds for all its mail from now on. */
const always = ref(false)
const dragged = ref<Source | null>(null)
const mail = useMailOf(place, opened)
const root = ref<HTMLElement | null>(null)

const chosen = computed(() =>
  props.openId ? undefined : sources.value.find((one) => one.key === current.value),
)
watch(place, () => {
  opened.value = ''
  current.value = ''
})
watch(current, () => (always.value = false))
watch(mail.messages, (now) => emit('mail', now), { immediate: true })
watch([current, () => props.openId], () =>
  nextTick(() =>
    root.value?.querySelector('.source.current, .row-mail.open')?.scrollIntoView({ block: 'nearest' }),
  ),
)

/** All rows in order: sources, and below the opened one its mail. */
const rows = computed<({ source: Source } | { message: Message })[]>(() =>
  sources.value.flatMap((source) => [
    { source },
    ...(source.key === opened.value ? mail.messages.value.map((message) => ({ message })) : []),
  ]),
)
const at = computed(() =>
  rows.value.findIndex((row) =>
    props.openId
      ? 'message' in row && row.message.id === props.openId
      : 'source' in row && row.source.key === current.value,
  ),
)

function step(by: number): void {
  const row = rows.value[at.value < 0 ? 0 : Math.min(rows.value.length - 1, Math.max(0, at.value + by))]
  if (!row) return
  if ('source' in row) choose(row.source)
  else emit('show', row.message.id)
  if (at.value >= rows.value.length - 5) more()
}

function choose(source: Source): void {
  current.value = source.key
  emit('show')
}

function toggle(source: Source): void {
  choose(source)
  opened.value = opened.value === source.key ? '' : source.key
}

/** Goes on to the source behind one that leaves. */
function goOn(source: Source): void {
  const here = sources.value.findIndex((one) => one.key === source.key)
  const next = sources.value[here + 1] ?? sources.value[here - 1]
  if (opened.value === source.key) opened.value = ''
  current.value = next?.key ?? ''
}

async function put(
  source: Source | undefined,
  target: string,
  forGood = always.value,
  confirmed = false,
): Promise<void> {
  if (!source || busy.value) return
  await answer(async () => {
    const again = () => put(source, target, forGood, true)
    const done = await teaching.putSource(props.place, source, target, forGood, again, confirmed)
    if (done && target !== props.place) goOn(source)
  })
}

async function file(source: Source | undefined, target: string): Promise<void> {
  if (!source || busy.value) return
  await answer(async () => {
    const ids = await idsOf(props.place, source.key)
    goOn(source)
    await teaching.file({ ids, rows: [], place: props.place }, target)
  })
}

async function mark(source: Source | undefined): Promise<void> {
  if (!source || busy.value) return
  await answer(async () => {
    const ids = await idsOf(props.place, source.key)
    await teaching.mark({ ids, rows: [], place: props.place }, source.unread ? 'read' : 'unread')
  })
}

/** Refuses all its mail from now on. */
const refuse = (source: Source | undefined) => put(source, 'drain', true)

const ofSource: Verbs = {
  archive: () => file(chosen.value, 'archive'),
  trash: () => file(chosen.value, 'trash'),
  seen: () => mark(chosen.value),
  refuse: () => refuse(chosen.value),
  reach: () => (always.value = !always.value),
  open: () => chosen.value && toggle(chosen.value),
  put: (target = '') => put(chosen.value, target),
  always: (target = '') => put(chosen.value, target, true),
  close: () => (opened.value ? (opened.value = '') : (current.value = '')),
}
PUTS.forEach((name, number) => {
  ofSource[name] = () => put(chosen.value, taker(number)?.name ?? '')
})
// While a source is chosen the verbs are about all of its mail; else they are about messages, as everywhere.
const verbs: Verbs = { next: () => step(1), previous: () => step(-1) }
watch(
  chosen,
  (now) => {
    for (const name of Object.keys(ofSource) as (keyof Verbs)[]) {
      if (now) verbs[name] = ofSource[name]
      else Reflect.deleteProperty(verbs, name)
    }
  },
  { immediate: true },
)
watch(dragged, (now) => {
  if (now)
    verbs.drop = (target = '') =>
      props.takers.some((one) => one.name === target) ? put(now, target, false) : file(now, target)
  else Reflect.deleteProperty(verbs, 'drop')
})
useVerbs(verbs)

function drag(event: DragEvent, source: Source): void {
  event.dataTransfer?.setData('text/plain', source.name)
  dragged.value = source
}
</script>

<template>
  <p v-if="failed" class="list-note" role="alert">{{ failed.message }}</p>
  <div v-else-if="!loading && !sources.length" class="list-note"><slot name="empty" /></div>
  <div v-else ref="root" class="list sources" role="list" tabindex="0" :aria-label="label">
    <p class="sources-count">{{ count }} senders and lists</p>
    <template v-for="source in sources" :key="source.key">
      <div
        class="source"
        role="listitem"
        :class="{ current: chosen?.key === source.key, opened: opened === source.key }"
        :aria-current="chosen?.key === source.key ? 'true' : undefined"
        :data-source="source.key"
        draggable="true"
        @dragstart="drag($event, source)"
        @dragend="dragged = null"
      >
        <button
          type="button"
          class="source-open"
          :aria-expanded="opened === source.key"
          @click="toggle(source)"
        >
          <span class="source-count" :class="{ unread: source.unread }"
            >{{ source.total }}<span v-if="source.unread">{{ source.unread }} unread</span></span
          >
          <span class="row-text">
            <span class="row-top">
              <bdi class="row-sender">{{ source.name }}</bdi>
              <time class="row-time" :title="exact(source.newest.time)">{{ near(source.newest.time) }}</time>
            </span>
            <span class="row-bottom">
              <bdi class="row-subject">{{ subjectOf(source.newest.subject) }}</bdi>
              <span class="row-marks"
                >{{ oftenWords(source.weekly) }} · {{ Math.round(source.read * 100) }}% read</span
              >
            </span>
          </span>
        </button>
        <div v-if="chosen?.key === source.key" class="source-verbs" role="group" aria-label="All its mail">
          <span>All {{ source.total }} belong in</span>
          <button
            v-for="one in takers"
            :key="one.name"
            type="button"
            class="verdict-button"
            :class="{ stands: one.name === place }"
            :disabled="busy"
            :data-put="one.name"
            @click="put(source, one.name)"
          >
            <KeyCap :of="putOf(one.name)" />{{ one.title }}
          </button>
          <button type="button" class="quiet-button" :aria-pressed="always" @click="always = !always">
            <KeyCap of="reach" />
            {{ always ? 'always' : 'learn from it' }}
          </button>
          <button type="button" class="quiet-button" :disabled="busy" @click="refuse(source)">
            <KeyCap of="refuse" /> Refuse
          </button>
          <button type="button" class="quiet-button" :disabled="busy" @click="file(source, 'archive')">
            <KeyCap of="archive" /> Archive
          </button>
          <button type="button" class="quiet-button" :disabled="busy" @click="file(source, 'trash')">
            <KeyCap of="trash" /> Trash
          </button>
          <button type="button" class="quiet-button" :disabled="busy" @click="mark(source)">
            <KeyCap of="seen" /> {{ source.unread ? 'Read' : 'Unread' }}
          </button>
        </div>
      </div>
      <template v-if="opened === source.key">
        <MailRow
          v-for="message in mail.messages.value"
          :key="message.id"
          class="of-source"
          :message="message"
          :bounds="bounds"
          :open="message.id === openId"
          :selected="picked.has(message.id)"
          @open="emit('show', message.id)"
          @select="emit('select', message)"
          @extend="emit('extend', message)"
          @dragstart="emit('drag', message)"
        />
        <button v-if="mail.hasMore.value" type="button" class="quiet-button source-more" @click="mail.more">
          More of them
        </button>
      </template>
    </template>
    <button
      v-if="hasMore"
      type="button"
      class="plain-button source-more"
      :disabled="loadingMore"
      @click="more"
    >
      More senders and lists
    </button>
  </div>
</template>
