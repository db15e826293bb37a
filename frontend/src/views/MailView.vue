<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { client, unwrap, type Message } from '../api/client'
import BeginHere from '../components/BeginHere.vue'
import DrainStrip from '../components/DrainStrip.vue'
import TrashStrip from '../components/TrashStrip.vue'
import ElsewhereAsk from '../components/ElsewhereAsk.vue'
import FlowBand from '../components/FlowBand.vue'
import JunkDoubts from '../components/JunkDoubts.vue'
import ListHead from '../components/ListHead.vue'
import DeskTrays from '../components/DeskTrays.vue'
import RulesHid from '../components/RulesHid.vue'
import SecondLook from '../components/SecondLook.vue'
import SourceList from '../components/SourceList.vue'
import WorkBench from '../components/WorkBench.vue'
import YourCall from '../components/YourCall.vue'
import { useVerbs } from '../composables/actions'
import { useMessages, type Listed } from '../composables/messages'
import { usePlaces } from '../composables/places'
import { appearance, order } from '../composables/settings'
import { useDesk, useTrays } from '../composables/trays'

const EMPTY: Record<string, string> = {
  desk: 'Nothing needs you. New mail that matters will stand here.',
  undecided: 'No questions. When asking is cheaper than guessing, a message waits here for your answer.',
  shelf: 'The Shelf is empty. What can wait will stand here; look at it once a day.',
  digest: 'No bulk reading. Newsletters and announcements gather here.',
  drain: 'The Drain is empty. Unwanted mail runs here, and can be rescued.',
  archive: 'Nothing is archived yet. What you are done with can be put here, and found again by searching.',
  sent: 'Nothing sent yet. Your own mail stands here.',
  drafts: 'No drafts. What you begin to write will wait here.',
  trash: 'The Trash is empty.',
  junk: 'Nothing in Junk. What your provider catches stands here, and what it may have caught wrongly is shown.',
}
const ASKED_AT_ONCE = 3

const route = useRoute()
const router = useRouter()
const { band, takers, bounds, places, due, isNew, visited } = usePlaces()

const place = computed(() => String(route.params.place))
const openId = computed(() => Number(route.params.message || 0))
const unreadOnly = ref(false)
const listed = computed<Listed>(() => ({
  order: order.value,
  unreadFirst: appearance.value.unreadFirst,
  unreadOnly: unreadOnly.value,
}))
const { trays, known } = useTrays()
/** The Desk may be shown in trays, as long as all of it is shown; which there are is known a little later. */
const trayed = computed(
  () => place.value === 'desk' && !unreadOnly.value && (!known.value || trays.value.length > 0),
)
const inTrays = computed(() => trayed.value && (appearance.value.inTrays || tray.value !== ''))
/** The trays that are places of their own beside the band, and the one that is looked at. */
const atDesk = useDesk(computed(() => trays.value.some((one) => one.beside)))
const besideBand = computed(() =>
  atDesk.shown.value
    .filter((one) => one.tray.beside)
    .map((one) => ({ name: one.tray.name, total: one.total, unread: one.unread })),
)
const tray = computed(() => {
  const wanted = place.value === 'desk' ? String(route.query.tray ?? '') : ''
  return trays.value.some((one) => one.beside && one.name === wanted) ? wanted : ''
})
const mail = useMessages(
  place,
  listed,
  computed(() => !inTrays.value),
)
/** A bucket for what can wait may be shown by sender or list. */
const groupable = computed(
  () => place.value !== 'undecided' && band.value.some((one) => one.name === place.value && !one.important),
)
const ranked = computed(() => (groupable.value ? appearance.value.bySource[place.value] : undefined))
const ofSource = ref<readonly Message[]>([])
const questions = useMessages(
  ref('undecided'),
  ref({ order: 'importance', unreadFirst: false, unreadOnly: false }),
)
const asked = computed(() =>
  place.value === 'desk' && !tray.value ? questions.messages.value.slice(0, ASKED_AT_ONCE) : [],
)
const here = computed(() => {
  const found = places.value.find((one) => one.name === place.value)
  const looked = besideBand.value.find((one) => one.name === tray.value)
  return found && looked
    ? { ...found, title: looked.name, total: looked.total, unread: looked.unread }
    : found
})
/** What is said where the list has nothing. */
const nothing = computed(() => {
  if (isNew.value) return 'There is no mail yet.'
  return unreadOnly.value ? 'Nothing unread here.' : (EMPTY[place.value] ?? 'Nothing here yet.')
})
const label = computed(
  () => `${here.value?.title ?? place.value}, ${order.value === 'time' ? 'newest first' : 'by importance'}`,
)

watch(
  [place, () => here.value?.rhythm],
  ([name, rhythm]) => {
    if (rhythm) void visited(name)
  },
  { immediate: true },
)

function go(name: string): void {
  void router.push({ name: 'mail', params: { place: name, message: '' } })
}

function show(message?: number): void {
  void router.replace({
    name: 'mail',
    params: { place: place.value, message: message ? String(message) : '' },
    query: tray.value ? { tray: tray.value } : {},
  })
}

function goToTray(name: string): void {
  void router.push({ name: 'mail', params: { place: 'desk', message: '' }, query: { tray: name } })
}

function besides(by: number): void {
  const at = band.value.findIndex((one) => one.name === place.value)
  const next = band.value[at < 0 ? 0 : at + by]
  if (next) go(next.name)
}

function all(sender: string): Promise<{ messages: number[]; total: number }> {
  const query = { sender, unread_only: unreadOnly.value }
  const params = { path: { name: place.value }, query }
  return unwrap(client.GET('/api/places/{name}/messages', { params }))
}

function asOneList(): void {
  appearance.value.inTrays = false
  order.value = 'time'
}

useVerbs({
  order: () => (order.value = order.value === 'importance' ? 'time' : 'importance'),
  'unread-only': () => (unreadOnly.value = !unreadOnly.value),
  'place-left': () => besides(-1),
  'place-right': () => besides(1),
})
</script>

<template>
  <WorkBench
    :ahead="asked"
    :list="ranked || inTrays ? ofSource : mail.messages.value"
    :place="place"
    :open-id="openId"
    :total="(unreadOnly ? here?.unread : here?.total) ?? 0"
    :has-more="mail.hasMore.value"
    :loading="mail.loading.value"
    :loading-more="mail.loadingMore.value"
    :failed="mail.failed.value?.message ?? ''"
    :label="label"
    :by-day="appearance.byDay && order === 'time' && !appearance.unreadFirst"
    :all="all"
    @show="show"
    @more="mail.more"
  >
    <template #top>
      <FlowBand
        :band="band"
        :current="place"
        :trays="besideBand"
        :tray="tray"
        :due="due"
        @go="go"
        @tray="goToTray"
      />
    </template>
    <template #head="{ picked, clear }">
      <ListHead
        :place="here"
        :picked="picked"
        :unread-only="unreadOnly"
        :groupable="groupable"
        :trays="trayed"
        :example="(inTrays ? ofSource : mail.messages.value)[0]"
        @clear="clear"
        @unread="(only) => (unreadOnly = only)"
      />
    </template>
    <template #ahead="{ open, put }">
      <ElsewhereAsk v-if="place === 'desk' && !tray" />
      <SecondLook v-if="place === 'desk' && !tray" @open="open" />
      <RulesHid v-if="place === 'desk' && !tray" @open="open" />
      <JunkDoubts v-if="place === 'junk'" @open="open" />
      <DrainStrip v-if="place === 'drain'" @open="open" />
      <TrashStrip v-if="place === 'trash'" />
      <YourCall
        v-if="asked.length"
        :messages="asked"
        :total="questions.messages.value.length"
        :takers="takers"
        :bounds="bounds"
        :open-id="openId"
        @open="open"
        @put="(message, target) => put(target, { ids: [message.id], rows: [message], place: 'undecided' })"
        @all="go('undecided')"
      />
    </template>
    <template v-if="inTrays" #list="{ picked, select, extend, drag, tag }">
      <DeskTrays
        :bounds="bounds"
        :open-id="openId"
        :picked="picked"
        :label="tray || `${here?.title ?? place}, in trays`"
        :only="tray"
        @mail="(messages) => (ofSource = messages)"
        @show="show"
        @select="select"
        @extend="extend"
        @drag="drag"
        @tag="tag"
        @list="asOneList"
      >
        <template #empty>
          <p>{{ nothing }}</p>
          <BeginHere v-if="isNew" />
        </template>
      </DeskTrays>
    </template>
    <template v-else-if="ranked" #list="{ picked, select, extend, drag }">
      <SourceList
        :place="place"
        :ranked="ranked"
        :takers="takers"
        :bounds="bounds"
        :open-id="openId"
        :picked="picked"
        :label="`${here?.title ?? place}, by sender or list`"
        @mail="(messages) => (ofSource = messages)"
        @show="show"
        @select="select"
        @extend="extend"
        @drag="drag"
      >
        <template #empty
          ><p>{{ nothing }}</p>
          <BeginHere v-if="isNew" />
        </template>
      </SourceList>
    </template>
    <template #empty>
      <p>{{ nothing }}</p>
      <BeginHere v-if="isNew" />
    </template>
  </WorkBench>
</template>
