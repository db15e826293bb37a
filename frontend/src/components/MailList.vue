<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, ref, toRef, watch } from 'vue'
import type { Bounds, Message } from '../api/client'
import { useLooking } from '../composables/looking'
import { useMailboxes } from '../composables/mailboxes'
import { appearance } from '../composables/settings'
import { rowsOf } from '../lib/rows'
import MailRow from './MailRow.vue'

const props = defineProps<{
  messages: readonly Message[]
  total: number
  hasMore: boolean
  loadingMore: boolean
  bounds: Bounds
  openId: number
  picked: ReadonlySet<number>
  label: string
  /** The bucket whose list this is, so that what is looked past in it is told; empty for other lists. */
  bucket: string
  byDay: boolean
  /** Titles of places, where messages of several are listed. */
  titles?: Record<string, string>
}>()
const emit = defineEmits<{
  open: [message: Message]
  select: [message: Message]
  extend: [message: Message]
  more: []
  drag: [message: Message]
  tag: [message: Message]
}>()

const { mailboxes } = useMailboxes()
const addresses = computed(() => mailboxes.value.map((one) => one.address))
const HEIGHTS = { two: 50, one: 29 }
const DAY = 26
const scroller = ref<HTMLElement | null>(null)
const rows = computed(() => rowsOf(props.messages, props.byDay))
const positions = computed(() => new Map(props.messages.map((one, index) => [one.id, index + 1])))
const size = computed(() =>
  props.hasMore ? Math.max(props.total, props.messages.length) : props.messages.length,
)
const count = computed(() => size.value + rows.value.length - props.messages.length)
const virtual = useVirtualizer(
  computed(() => ({
    count: count.value,
    getScrollElement: () => scroller.value,
    estimateSize: (index: number) =>
      rows.value[index]?.kind === 'day' ? DAY : HEIGHTS[appearance.value.density],
    overscan: 8,
    getItemKey: (index: number) => {
      const row = rows.value[index]
      return row ? (row.kind === 'day' ? `day-${row.key}` : row.message.id) : `row-${index}`
    },
  })),
)
const seen = computed(() =>
  virtual.value.getVirtualItems().map((item) => ({ item, row: rows.value[item.index] })),
)
const height = computed(() => `${virtual.value.getTotalSize()}px`)
const activeId = computed(() =>
  seen.value.some(({ row }) => row?.kind === 'message' && row.message.id === props.openId)
    ? `mail-${props.openId}`
    : undefined,
)

watch(
  () => appearance.value.density,
  () => virtual.value.measure(),
)
watch(rows, () => virtual.value.measure())
watch(
  () => [seen.value.at(-1)?.item.index ?? 0, rows.value.length, props.hasMore, props.loadingMore] as const,
  ([last, loaded, more, busy]) => {
    if (more && !busy && last >= loaded - 20) emit('more')
  },
)
watch(
  () => props.openId,
  (id) => {
    const index = rows.value.findIndex((row) => row.kind === 'message' && row.message.id === id)
    if (index >= 0) virtual.value.scrollToIndex(index)
  },
)

/** The messages in order, and which of them stand in sight: none where the message has the whole page. */
function inSight() {
  const range = scroller.value?.clientHeight ? virtual.value.range : null
  const { startIndex, endIndex } = range ?? { startIndex: 0, endIndex: -1 }
  const before = (index: number) => rows.value.slice(0, index).filter((row) => row.kind === 'message').length
  const list = props.messages.map((one) => one.id)
  return { list, first: before(startIndex), last: before(endIndex + 1) - 1, open: props.openId }
}
useLooking(toRef(props, 'bucket'), inSight)

function dragged(event: DragEvent, message: Message): void {
  event.dataTransfer?.setData('text/plain', message.subject)
  emit('drag', message)
}
</script>

<template>
  <div
    ref="scroller"
    class="list"
    role="listbox"
    tabindex="0"
    aria-multiselectable="true"
    :aria-label="label"
    :aria-activedescendant="activeId"
  >
    <div class="list-space" role="presentation" :style="{ height }">
      <div
        v-for="{ item, row } in seen"
        :key="String(item.key)"
        class="list-place"
        role="presentation"
        :style="{ transform: `translateY(${item.start}px)`, height: `${item.size}px` }"
      >
        <MailRow
          v-if="row?.kind === 'message'"
          :id="`mail-${row.message.id}`"
          :message="row.message"
          :bounds="bounds"
          :open="row.message.id === openId"
          :selected="picked.has(row.message.id)"
          :where="titles?.[row.message.place]"
          :mailboxes="addresses"
          :aria-posinset="positions.get(row.message.id)"
          :aria-setsize="size"
          @open="emit('open', row.message)"
          @select="emit('select', row.message)"
          @extend="emit('extend', row.message)"
          @dragstart="dragged($event, row.message)"
          @tag="emit('tag', row.message)"
        />
        <div v-else-if="row" class="row-day" role="presentation">{{ row.title }}</div>
        <div v-else class="row-mail row-empty" role="presentation"><span>loading</span></div>
      </div>
    </div>
  </div>
</template>
