<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Bounds, Message } from '../api/client'
import { appearance } from '../composables/settings'
import { openMenu } from '../composables/rowMenu'
import { draggedTag, useTags } from '../composables/tags'
import { followWords, isDue } from '../lib/following'
import { shown } from '../lib/gauge'
import { exact, near } from '../lib/time'
import { accountName, isWeighed, nameOf, subjectOf } from '../lib/words'
import ScoreGauge from './ScoreGauge.vue'

const props = defineProps<{
  message: Message
  bounds: Bounds
  open: boolean
  selected: boolean
  /** The addresses of all mailboxes, by which one of them is named as short as it can be. */
  mailboxes?: readonly string[]
  /** Where it stands, said where messages of several places are listed. */
  where?: string
}>()
const emit = defineEmits<{ open: []; select: []; extend: []; tag: [] }>()

const MOST_TAGS = 3
const { byId } = useTags()
const over = ref(false)
const tags = computed(() =>
  props.message.tags.map((id) => byId.value.get(id)).filter((one) => one !== undefined && one.shown),
)

/** The owner's own mail is not weighed, nor are editions. */
const own = computed(() => !isWeighed(props.message))
const marks = computed(() => {
  const one = props.message
  return [
    ...followWords(one.follow),
    one.answered ? 'answered' : '',
    one.attachments && appearance.value.attachments ? `${one.attachments} att.` : '',
    one.readable ? '' : 'unreadable',
    one.leaves_at ? `leaves ${near(one.leaves_at)}` : '',
    one.accounts.map((address) => accountName(address, props.mailboxes ?? [])).join(', '),
    props.where ?? '',
  ].filter(Boolean)
})

function drop(): void {
  over.value = false
  if (draggedTag.value) emit('tag')
}

function click(event: MouseEvent): void {
  if (event.shiftKey) emit('extend')
  else if (event.ctrlKey || event.metaKey) emit('select')
  else emit('open')
}
</script>

<template>
  <div
    class="row-mail"
    role="option"
    :aria-selected="selected"
    :aria-current="open ? 'true' : undefined"
    :class="{
      open,
      selected,
      unread: !message.seen,
      dense: appearance.density === 'one',
      bare: !appearance.gauge,
      over,
    }"
    :data-message="message.id"
    draggable="true"
    @click="click"
    @mousedown.shift.prevent
    @contextmenu="openMenu($event, message)"
    @dragover="draggedTag && ((over = true), $event.preventDefault())"
    @dragleave="over = false"
    @drop.prevent="drop"
  >
    <span
      class="row-tick"
      :class="{ on: selected }"
      aria-hidden="true"
      title="Select"
      @click.stop="$event.shiftKey ? emit('extend') : emit('select')"
    />
    <span v-if="own && appearance.gauge" />
    <ScoreGauge
      v-else-if="appearance.gauge"
      :score="message.score"
      :low="message.low_edge"
      :high="message.high_edge"
      :bounds="bounds"
    />
    <span class="row-score" aria-hidden="true">{{ own ? '' : shown(message.score) }}</span>
    <span class="row-text">
      <span class="row-top">
        <bdi class="row-sender">{{ nameOf(message, appearance.names) }}</bdi>
        <time class="row-time" :title="exact(message.time)">{{ near(message.time) }}</time>
        <span
          class="row-more"
          aria-hidden="true"
          title="What can be done with it"
          @click.stop="openMenu($event, message)"
          >…</span
        >
      </span>
      <span class="row-bottom">
        <span v-if="selected" class="row-picked">selected</span>
        <bdi class="row-subject">{{ subjectOf(message.subject) }}</bdi>
        <span v-for="tag in tags.slice(0, MOST_TAGS)" :key="tag?.id" class="tag" :data-tone="tag?.tone"
          ><bdi>{{ tag?.name }}</bdi></span
        >
        <span v-if="tags.length > MOST_TAGS" class="row-marks">+{{ tags.length - MOST_TAGS }}</span>
        <bdi class="row-snippet">{{ message.snippet }}</bdi>
        <span v-if="message.flagged && !isDue(message)" class="row-flag">flagged</span>
        <span v-if="marks.length" class="row-marks" :title="marks.join(' · ')">{{ marks.join(' · ') }}</span>
      </span>
      <span v-if="!message.seen" class="visually-hidden">unread</span>
    </span>
  </div>
</template>
