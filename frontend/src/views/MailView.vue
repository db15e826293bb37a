<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { client, unwrap, type Message, type Opened, type Reach } from '../api/client'
import FlowBand from '../components/FlowBand.vue'
import MailList from '../components/MailList.vue'
import ReadingSide from '../components/ReadingSide.vue'
import VerdictBar from '../components/VerdictBar.vue'
import YourCall from '../components/YourCall.vue'
import { useKeys, type Verbs } from '../composables/keys'
import { useMessages } from '../composables/messages'
import { usePlaces } from '../composables/places'
import { order } from '../composables/settings'
import { useTeaching } from '../composables/teaching'

const EMPTY: Record<string, string> = {
  desk: 'Nothing needs you. New mail that matters will stand here.',
  undecided: 'No questions. When asking is cheaper than guessing, a message waits here for your answer.',
  shelf: 'The Shelf is empty. What can wait will stand here; look at it once a day.',
  digest: 'No bulk reading. Newsletters and announcements gather here.',
  drain: 'The Drain is empty. Unwanted mail runs here, and can be rescued.',
}
const REACHES: Reach[] = ['learn', 'message', 'thread', 'address', 'list', 'domain']
const ASKED_AT_ONCE = 3

const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
const { band, quiet, takers, titles, bounds, places } = usePlaces()
const { put, follow, effect, reach, say } = useTeaching()

const place = computed(() => String(route.params.place))
const openId = computed(() => Number(route.params.message || 0))
const { messages, more, hasMore, loading, loadingMore, failed } = useMessages(place, order)
const questions = useMessages(ref('undecided'), ref('importance'))
const asked = computed(() => (place.value === 'desk' ? questions.messages.value.slice(0, ASKED_AT_ONCE) : []))
const here = computed(() => places.value.find((one) => one.name === place.value))
const picked = ref<ReadonlySet<number>>(new Set())
const dragged = ref<Message[]>([])

const openMessage = computed<Message | undefined>(
  () =>
    messages.value.find((one) => one.id === openId.value) ??
    questions.messages.value.find((one) => one.id === openId.value) ??
    queries.getQueryData<Opened>(['opened', openId.value])?.message,
)
const chosen = computed<Message[]>(() => {
  if (picked.value.size) return messages.value.filter((one) => picked.value.has(one.id))
  return openMessage.value && openMessage.value.decided_by !== 'own' ? [openMessage.value] : []
})
const reaches = computed<Reach[]>(() => {
  const known = queries.getQueryData<Opened>(['opened', openId.value])?.reaches
  return picked.value.size || !known ? REACHES : REACHES.filter((one) => known.includes(one))
})
const walk = computed<Message[]>(() => [...asked.value, ...messages.value])

watch(place, () => (picked.value = new Set()))
watch(openId, (id) => {
  if (id && openMessage.value && !openMessage.value.seen) {
    const params = { path: { number: id } }
    void unwrap(client.PUT('/api/messages/{number}/seen', { params, body: { seen: true } })).catch(
      (error: Error) => say(error.message),
    )
  }
})

function go(name: string, message?: number): void {
  void router.push({ name: 'mail', params: { place: name, message: message ? String(message) : '' } })
}

function open(message: Message | undefined): void {
  if (message)
    void router.replace({ name: 'mail', params: { place: place.value, message: String(message.id) } })
}

function step(by: number): void {
  const at = walk.value.findIndex((one) => one.id === openId.value)
  open(walk.value[at < 0 ? 0 : Math.min(walk.value.length - 1, Math.max(0, at + by))])
}

function toggle(message: Message | undefined): void {
  if (!message) return
  const next = new Set(picked.value)
  if (!next.delete(message.id)) next.add(message.id)
  picked.value = next
}

function putChosen(target: string, what: Message[] = chosen.value): void {
  if (!what.length || !target) return
  const gone = new Set(what.map((one) => one.id))
  const at = walk.value.findIndex((one) => gone.has(one.id))
  const left = walk.value.filter((one) => !gone.has(one.id))
  void put(what, target)
  picked.value = new Set()
  if (gone.has(openId.value)) {
    const next = left[Math.min(Math.max(at, 0), left.length - 1)]
    if (next) open(next)
    else go(place.value)
  }
}

function putNumbered(number: number): void {
  const taker = takers.value[number]
  if (taker) putChosen(taker.name)
}

function nextReach(): void {
  const at = reaches.value.indexOf(reach.value)
  reach.value = reaches.value[(at + 1) % reaches.value.length] ?? 'learn'
}

function toggleSeen(): void {
  const one = openMessage.value
  if (!one) return
  const body = { seen: !one.seen }
  void unwrap(
    client.PUT('/api/messages/{number}/seen', { params: { path: { number: one.id } }, body }),
  ).catch((error: Error) => say(error.message))
}

function besides(by: number): void {
  const at = band.value.findIndex((one) => one.name === place.value)
  const next = band.value[at + by]
  if (next) go(next.name)
}

function close(): void {
  if (picked.value.size) picked.value = new Set()
  else if (openId.value) go(place.value)
}

function read(): void {
  if (!openId.value) step(0)
  else document.querySelector<HTMLElement>('.reading-text, .reading-frame')?.focus()
}

const verbs: Verbs = {
  next: () => step(1),
  previous: () => step(-1),
  open: read,
  close,
  select: () => toggle(openMessage.value),
  order: () => (order.value = order.value === 'importance' ? 'time' : 'importance'),
  reach: nextReach,
  follow: () => effect.value && void follow(effect.value.outcome.kin),
  seen: toggleSeen,
  'place-left': () => besides(-1),
  'place-right': () => besides(1),
}
for (let number = 0; number < 5; number++) verbs[`put-${number}`] = () => putNumbered(number)
useKeys(verbs)
</script>

<template>
  <div class="mail" :class="{ reads: openId }">
    <FlowBand
      :band="band"
      :current="place"
      @go="(name) => go(name)"
      @drop="(name) => putChosen(name, dragged)"
    />
    <section class="mail-list" :aria-label="here?.title ?? 'Mail'">
      <div class="list-head">
        <h2>{{ here?.title ?? place }}</h2>
        <span class="list-count">{{ here?.total ?? 0 }} messages, {{ here?.unread ?? 0 }} unread</span>
        <span v-if="picked.size" class="list-picked">
          {{ picked.size }} selected
          <button type="button" class="quiet-button" @click="picked = new Set()">clear</button>
        </span>
        <label class="list-order">
          <span class="visually-hidden">Order</span>
          <select v-model="order" title="Order (o)">
            <option value="importance">by importance</option>
            <option value="time">newest first</option>
          </select>
        </label>
        <BDropdown class="list-quiet" variant="link" size="sm" text="other places" no-caret>
          <BDropdownItem v-for="one in quiet" :key="one.name" @click="go(one.name)">
            {{ one.title }} <span class="count">{{ one.total }}</span>
          </BDropdownItem>
        </BDropdown>
      </div>
      <YourCall
        v-if="asked.length"
        :messages="asked"
        :total="questions.messages.value.length"
        :takers="takers"
        :bounds="bounds"
        :open-id="openId"
        @open="open"
        @put="(message, target) => putChosen(target, [message])"
        @all="go('undecided')"
      />
      <p v-if="failed" class="list-note" role="alert">{{ failed.message }}</p>
      <div v-else-if="!loading && messages.length === 0" class="list-note">
        <p>{{ EMPTY[place] ?? 'Nothing here.' }}</p>
        <p v-if="places.every((one) => one.total === 0)">
          There is no mail yet. <RouterLink to="/bring-in">Bring in a mailbox</RouterLink> to begin.
        </p>
      </div>
      <MailList
        v-else
        :messages="messages"
        :total="here?.total ?? 0"
        :has-more="hasMore"
        :loading-more="loadingMore"
        :bounds="bounds"
        :open-id="openId"
        :picked="picked"
        :label="`${here?.title ?? place}, ${order === 'time' ? 'newest first' : 'by importance'}`"
        @open="open"
        @select="toggle"
        @more="more"
        @drag="(message) => (dragged = picked.has(message.id) ? chosen : [message])"
      />
    </section>
    <section class="mail-side" aria-label="Reading">
      <ReadingSide v-if="openId" :number="openId" @open="(number) => go(place, number)" @close="go(place)" />
      <div v-else class="side-empty">
        <p>Choose a message to read it and to see why it stands where it stands.</p>
        <p><kbd>j</kbd> <kbd>k</kbd> move, <kbd>Enter</kbd> opens, <kbd>?</kbd> lists the keys.</p>
      </div>
      <VerdictBar
        :chosen="chosen"
        :takers="takers"
        :titles="titles"
        :reaches="reaches"
        @put="(target) => putChosen(target)"
      />
    </section>
  </div>
</template>
