<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, ref, watch } from 'vue'
import type { Message } from '../api/client'
import MailRow from './MailRow.vue'

const props = defineProps<{
  messages: readonly Message[]
  total: number
  hasMore: boolean
  loadingMore: boolean
  bounds: { ask: number; desk: number }
  openId: number
  picked: ReadonlySet<number>
  label: string
}>()
const emit = defineEmits<{
  open: [message: Message]
  select: [message: Message]
  more: []
  drag: [message: Message]
}>()

const ROW = 50
const scroller = ref<HTMLElement | null>(null)
const count = computed(() =>
  props.hasMore ? Math.max(props.total, props.messages.length) : props.messages.length,
)
const virtual = useVirtualizer(
  computed(() => ({
    count: count.value,
    getScrollElement: () => scroller.value,
    estimateSize: () => ROW,
    overscan: 8,
    getItemKey: (index: number) => props.messages[index]?.id ?? `row-${index}`,
  })),
)
const rows = computed(() => virtual.value.getVirtualItems())
const height = computed(() => `${virtual.value.getTotalSize()}px`)
const activeId = computed(() =>
  rows.value.some((row) => props.messages[row.index]?.id === props.openId)
    ? `mail-${props.openId}`
    : undefined,
)

watch(
  () => [rows.value.at(-1)?.index ?? 0, props.messages.length, props.hasMore, props.loadingMore] as const,
  ([last, loaded, more, busy]) => {
    if (more && !busy && last >= loaded - 20) emit('more')
  },
)

watch(
  () => props.openId,
  (id) => {
    const index = props.messages.findIndex((one) => one.id === id)
    if (index >= 0) virtual.value.scrollToIndex(index)
  },
)

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
        v-for="row in rows"
        :key="String(row.key)"
        class="list-place"
        role="presentation"
        :style="{ transform: `translateY(${row.start}px)` }"
      >
        <MailRow
          v-if="messages[row.index]"
          :id="`mail-${messages[row.index]!.id}`"
          :message="messages[row.index]!"
          :bounds="bounds"
          :open="messages[row.index]!.id === openId"
          :selected="picked.has(messages[row.index]!.id)"
          :aria-posinset="row.index + 1"
          :aria-setsize="count"
          @open="emit('open', messages[row.index]!)"
          @select="emit('select', messages[row.index]!)"
          @dragstart="dragged($event, messages[row.index]!)"
        />
        <div v-else class="row-mail row-empty" role="presentation"><span>loading</span></div>
      </div>
    </div>
  </div>
</template>
