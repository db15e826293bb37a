<script setup lang="ts">
import { computed, onUnmounted, toRef } from 'vue'
import type { Message } from '../api/client'
import { run } from '../composables/actions'
import { useDrafts } from '../composables/drafts'
import { usePlaces } from '../composables/places'
import { ANSWERS, hostsMenu, menuAt } from '../composables/rowMenu'
import { appearance } from '../composables/settings'
import { useTeaching } from '../composables/teaching'
import { useWork, type Worked } from '../composables/work'
import type { ActionName } from '../lib/actions'
import MailList from './MailList.vue'
import MessageMenu from './MessageMenu.vue'
import NothingOpen from './NothingOpen.vue'
import ReadingSide from './ReadingSide.vue'
import RoutineStrip from './RoutineStrip.vue'
import VerdictBar from './VerdictBar.vue'
import VisitNote from './VisitNote.vue'

const props = defineProps<{
  /** Messages above the list that are gone through first. */
  ahead: readonly Message[]
  list: readonly Message[]
  place: string
  openId: number
  total: number
  hasMore: boolean
  loading: boolean
  loadingMore: boolean
  failed: string
  label: string
  byDay: boolean
  mixed?: boolean
  all: Worked['all']
}>()
const emit = defineEmits<{ show: [message?: number]; more: [] }>()

const { takers, titles, bounds, band } = usePlaces()
const { effect } = useTeaching()
const walk = computed<Message[]>(() => [...props.ahead, ...props.list])
const work = useWork({
  walk,
  openId: toRef(props, 'openId'),
  place: toRef(props, 'place'),
  show: (message) => emit('show', message),
  all: (sender) => props.all(sender),
})
const { picked, held, chosen, taught, reaches, whole, reads, clear, toggle, extendTo, put, drag, dropTag } =
  work
const quiet = computed(() => {
  const names = chosen.value.rows.map((one) => one.place)
  return names.length > 0 && !band.value.some((one) => names.includes(one.name))
})

const { begin } = useDrafts()

onUnmounted(hostsMenu())

function open(message: Message): void {
  work.readNow(message.id)
  if (appearance.value.reading === 'off') whole.value = true
  emit('show', message.id)
}

/** Does what the menu says with what it is about: a message that is not open is answered by its row. */
function act(name: ActionName, argument?: string): void {
  const one = chosen.value.rows[0]
  const kind = ANSWERS[name]
  if (kind && one && one.id !== props.openId) void begin(one.place === 'drafts' ? 'draft' : kind, one.id)
  else run(name, argument)
}

function close(): void {
  whole.value = false
  emit('show')
}
</script>

<template>
  <div
    class="mail"
    :class="[`lay-${appearance.reading}`, { reads, whole: whole && openId, selecting: picked.size }]"
  >
    <slot name="top" />
    <section class="mail-list" :aria-label="label">
      <slot name="head" :picked="picked.size" :clear="clear" />
      <VisitNote />
      <slot name="ahead" :open="open" :put="put" />
      <slot
        v-if="$slots.list"
        name="list"
        :picked="picked"
        :select="(message: Message) => toggle(message.id)"
        :extend="(message: Message) => extendTo(message.id)"
        :drag="drag"
        :tag="dropTag"
      />
      <p v-else-if="failed" class="list-note" role="alert">{{ failed }}</p>
      <div v-else-if="!loading && list.length === 0" class="list-note"><slot name="empty" /></div>
      <MailList
        v-else
        :messages="list"
        :total="total"
        :has-more="hasMore"
        :loading-more="loadingMore"
        :bounds="bounds"
        :open-id="openId"
        :picked="picked"
        :label="label"
        :bucket="takers.some((one) => one.name === place) ? place : ''"
        :by-day="byDay"
        :titles="mixed ? titles : undefined"
        @open="open"
        @select="(message) => toggle(message.id)"
        @extend="(message) => extendTo(message.id)"
        @more="emit('more')"
        @drag="drag"
        @tag="dropTag"
      />
    </section>
    <section v-if="reads || appearance.reading !== 'off'" class="mail-side" aria-label="Reading">
      <ReadingSide
        v-if="reads"
        :number="openId"
        :whole="Boolean(whole)"
        @open="(number) => emit('show', number)"
        @close="close"
        @whole="whole = !whole"
      />
      <NothingOpen v-else :plain="!place" />
    </section>
    <VerdictBar
      v-if="held.ids.length || effect"
      :count="held.ids.length"
      :rows="held.rows"
      :teachable="taught.ids.length > 0"
      :takers="takers"
      :quiet="quiet"
      :titles="titles"
      :reaches="reaches"
      @put="(target) => put(target)"
    >
      <RoutineStrip @others="work.routineOthers" />
    </VerdictBar>
    <MessageMenu
      v-if="menuAt"
      :key="`${menuAt.x} ${menuAt.y}`"
      :at="menuAt"
      :rows="chosen.rows"
      :count="chosen.ids.length"
      :answerable="chosen.ids.length === 1"
      :teachable="taught.ids.length > 0"
      :quiet="quiet"
      @act="act"
    />
  </div>
</template>
