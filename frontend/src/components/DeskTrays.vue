<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, ref, watch } from 'vue'
import type { Bounds, Message } from '../api/client'
import { useVerbs } from '../composables/actions'
import { useLooking } from '../composables/looking'
import { appearance } from '../composables/settings'
import { useTeaching } from '../composables/teaching'
import { useDesk } from '../composables/trays'
import KeyCap from './KeyCap.vue'
import MailRow from './MailRow.vue'

const props = defineProps<{
  bounds: Bounds
  openId: number
  picked: ReadonlySet<number>
  label: string
  /** The one tray that is looked at as a place of its own; of the Desk, empty. */
  only: string
}>()
const emit = defineEmits<{
  /** The mail that is gone through now: the rows that are shown, in order. */
  mail: [messages: readonly Message[]]
  show: [message?: number]
  select: [message: Message]
  extend: [message: Message]
  drag: [message: Message]
  tag: [message: Message]
  /** All of the Desk as one list, newest first. */
  list: []
}>()

const { shown: all, older: before, failed, whole, toggle, showWhole } = useDesk(ref(true))
const shown = computed(() =>
  all.value
    .map((one, at) => ({ ...one, at }))
    .filter((one) => (props.only ? one.tray.name === props.only : !one.tray.beside))
    .filter((one) => props.only || one.total || one.problem || appearance.value.emptyTrays),
)
const older = computed(() => (props.only ? 0 : before.value))
const teaching = useTeaching()
const root = ref<HTMLElement | null>(null)
const rows = computed<readonly Message[]>(() => shown.value.flatMap((one) => one.messages))
const total = computed(() => shown.value.reduce((sum, one) => sum + one.total, 0))
const dealt = computed(() => all.value.find((one) => one.tray.kind === 'dealt'))

watch(
  [() => props.only, () => shown.value[0]?.at],
  ([only, at], [before]) => {
    if (only || before) showWhole(only ? at : undefined)
  },
  { immediate: true },
)
onBeforeUnmount(() => showWhole(undefined))
watch(rows, (now) => emit('mail', now), { immediate: true })
watch(
  () => props.openId,
  () => nextTick(() => root.value?.querySelector('.row-mail.open')?.scrollIntoView({ block: 'nearest' })),
)

/** The messages in order, and which of them stand in sight. */
function inSight() {
  const list = rows.value.map((one) => one.id)
  const box = root.value?.getBoundingClientRect()
  const seen = [...(root.value?.querySelectorAll<HTMLElement>('.row-mail') ?? [])].flatMap((row, index) => {
    const at = row.getBoundingClientRect()
    return box && at.bottom > box.top && at.top < box.bottom ? [index] : []
  })
  return { list, first: seen[0] ?? 0, last: seen.at(-1) ?? -1, open: props.openId }
}
useLooking(ref('desk'), inSight)

function archiveDealt(): void {
  const those = dealt.value
  if (!those?.numbers.length) return
  void teaching.file({ ids: those.numbers, rows: [...those.messages], place: 'desk' }, 'archive')
}
useVerbs({ 'archive-dealt': archiveDealt })

function marked(event: DragEvent, message: Message): void {
  event.dataTransfer?.setData('text/plain', message.subject)
  emit('drag', message)
}
</script>

<template>
  <p v-if="failed" class="list-note" role="alert">{{ failed.message }}</p>
  <div v-else-if="all.length && !total && !older" class="list-note"><slot name="empty" /></div>
  <div v-else ref="root" class="list trays" tabindex="0" role="group" :aria-label="label">
    <section v-for="one in shown" :key="`${one.at} ${one.tray.name}`" class="tray" :data-tray="one.tray.name">
      <header v-if="!only" class="tray-head" :class="{ quiet: !one.total }">
        <h3>
          <button
            v-if="one.total"
            type="button"
            :aria-expanded="one.messages.length > 0"
            @click="toggle(one.at)"
          >
            <bdi>{{ one.tray.name }}</bdi>
          </button>
          <bdi v-else>{{ one.tray.name }}</bdi>
        </h3>
        <span class="tray-count">
          <template v-if="one.problem">{{ one.problem }}</template>
          <template v-else-if="!one.total">none</template>
          <template v-else
            >{{ one.total.toLocaleString()
            }}<template v-if="one.unread && one.unread < one.total"
              >, {{ one.unread }} unread</template
            ></template
          >
        </span>
        <button
          v-if="one.tray.kind === 'dealt' && one.total"
          type="button"
          class="quiet-button"
          data-act="archive-dealt"
          @click="archiveDealt"
        >
          Archive all <KeyCap of="archive-dealt" />
        </button>
      </header>
      <div v-if="one.messages.length" role="listbox" aria-multiselectable="true" :aria-label="one.tray.name">
        <MailRow
          v-for="message in one.messages"
          :id="`mail-${message.id}`"
          :key="message.id"
          :message="message"
          :bounds="bounds"
          :open="message.id === openId"
          :selected="picked.has(message.id)"
          @open="emit('show', message.id)"
          @select="emit('select', message)"
          @extend="emit('extend', message)"
          @dragstart="marked($event, message)"
          @tag="emit('tag', message)"
        />
      </div>
      <button
        v-if="!only && one.messages.length && (one.total > one.messages.length || whole.includes(one.at))"
        type="button"
        class="quiet-button tray-more"
        @click="toggle(one.at)"
      >
        {{ whole.includes(one.at) ? 'Fewer' : `${(one.total - one.messages.length).toLocaleString()} more` }}
      </button>
    </section>
    <p v-if="older" class="tray-older">
      {{ older.toLocaleString() }} older messages stand on the Desk.
      <button type="button" class="quiet-button" @click="emit('list')">Show all as one list</button>
    </p>
  </div>
</template>
