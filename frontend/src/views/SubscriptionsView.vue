<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { Subscription } from '../api/client'
import ColumnHead from '../components/ColumnHead.vue'
import EffectStrip from '../components/EffectStrip.vue'
import SubscriptionAbout from '../components/SubscriptionAbout.vue'
import { useVerbs, type Verbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { useKeyed } from '../composables/keyed'
import { usePlaces } from '../composables/places'
import { following } from '../composables/settings'
import { useSubscriptions } from '../composables/subscriptions'
import { useTeaching } from '../composables/teaching'
import { PUTS } from '../lib/actions'
import { bars, COLUMNS, isOpen, matching, sorted, type Column } from '../lib/subscriptions'
import { bytes, exact, near } from '../lib/time'
import { inPlace } from '../lib/words'

const ROW = 30
const { all, toDecide, toLookAt, loading, failed, decide } = useSubscriptions()
const { takers, titles, taker } = usePlaces()
const teaching = useTeaching()
const { attempt } = useAttempt(teaching.show, (why) => teaching.show(why, meant))

const column = ref<Column>('total')
const against = ref(false)
const words = ref('')
const openOnly = ref(true)
const picked = ref<ReadonlySet<string>>(new Set())
const scroller = ref<HTMLElement | null>(null)

const rows = computed(() => {
  const found = matching(all.value, words.value)
  // What is selected stays in sight: what came of asking it to stop is shown beside it.
  const shown = openOnly.value ? found.filter((one) => isOpen(one) || picked.value.has(one.key)) : found
  return sorted(shown, column.value, against.value)
})
const route = useRoute()
const { currentKey, at, current, chosen: several, toggle, clear, verbs: walking } = useKeyed(rows, picked)
/** What a decision is about: what is selected, or else the row the owner is on. */
const chosen = computed(() => {
  if (several.value.length) return several.value
  return current.value ? [current.value] : []
})
const virtual = useVirtualizer(
  computed(() => ({
    count: rows.value.length,
    getScrollElement: () => scroller.value,
    estimateSize: () => ROW,
    overscan: 10,
    getItemKey: (index: number) => rows.value[index]?.key ?? index,
  })),
)
const seen = computed(() =>
  virtual.value.getVirtualItems().flatMap((item) => {
    const one = rows.value[item.index]
    return one ? [{ item, one }] : []
  }),
)
const decidedShare = computed(() => (all.value.length ? 1 - toDecide.value / all.value.length : 0))

/** Led here from a message: its list is the one at hand, decided or not. */
watch(
  () => [String(route.query.of ?? ''), all.value.length] as const,
  ([of, there]) => {
    if (!of || !there) return
    openOnly.value = false
    currentKey.value = of
  },
  { immediate: true },
)
watch(at, (index) => index >= 0 && virtual.value.scrollToIndex(index))

function click(event: MouseEvent, one: Subscription): void {
  if (event.ctrlKey || event.metaKey) toggle(one.key)
  else currentKey.value = one.key
}

let meant: (() => Promise<void>) | undefined

async function put(target: string | undefined): Promise<void> {
  if (target) await decideOn(chosen.value, target)
}

async function decideOn(about: readonly Subscription[], target: string, confirmed = false): Promise<void> {
  if (!about.length) return
  meant = () => decideOn(about, target, true)
  // Who comes behind those that are decided is next, whether or not they leave the list.
  const keys = new Set(about.map((one) => one.key))
  const rest = rows.value.filter((one, index) => index > at.value && !keys.has(one.key) && isOpen(one))
  const before = rows.value.filter((one, index) => index < at.value && !keys.has(one.key) && isOpen(one))
  currentKey.value = (rest[0] ?? before.at(-1) ?? about[0])?.key ?? ''
  clear()
  await attempt(async () => {
    const outcome = await decide(about, target, confirmed)
    const what = about.length === 1 ? (about[0]?.name ?? '') : `${about.length} subscriptions`
    const went = outcome.moved === 1 ? 'One message goes along.' : `${outcome.moved} messages go along.`
    teaching.tell(`All mail of ${what} ${inPlace(target, titles.value)}. ${outcome.moved ? went : ''}`)
  })
}

function order(name: Column): void {
  against.value = column.value === name && !against.value
  column.value = name
}

const verbs: Verbs = {
  ...walking,
  refuse: () => put('drain'),
  put: (target) => put(target),
  order: () =>
    order(
      following(
        COLUMNS.map((one) => one.name),
        column.value,
      ),
    ),
  'unread-only': () => (openOnly.value = !openOnly.value),
}
PUTS.forEach((name, number) => {
  verbs[name] = () => put(taker(number)?.name)
})
useVerbs(verbs)

/** What was decided, in a word. */
function stands(one: Subscription): string {
  if (one.belongs) return titles.value[one.belongs] ?? one.belongs
  if (one.came_back) return 'came back'
  return one.unsubscribed ? 'left' : ''
}
</script>

<template>
  <div class="subscriptions">
    <header class="subscriptions-head">
      <h1>Subscriptions</h1>
      <p class="subscriptions-count" role="status">
        <template v-if="all.length"
          >still to decide: <strong>{{ toDecide }}</strong> of {{ all.length }}</template
        >
        <span v-if="toLookAt" class="note">{{ toLookAt }} older messages are still looked through</span>
      </p>
      <label class="subscriptions-search">
        <span class="visually-hidden">Find subscriptions</span>
        <input
          v-model="words"
          type="search"
          class="form-control"
          placeholder="name, subject, address, size>1MB"
        />
      </label>
      <label>
        <span class="visually-hidden">Which are shown</span>
        <select v-model="openOnly" class="form-select" @change="($event.target as HTMLSelectElement).blur()">
          <option :value="true">to decide</option>
          <option :value="false">all</option>
        </select>
      </label>
      <div class="subscriptions-strip" aria-hidden="true">
        <span :style="{ width: `${100 * decidedShare}%` }"></span>
      </div>
    </header>
    <div class="subscriptions-body">
      <div ref="scroller" class="subscriptions-list" role="table" aria-label="Subscriptions">
        <div class="subscription subscription-titles" role="row">
          <template v-for="one in COLUMNS" :key="one.name">
            <ColumnHead
              :class="`of-${one.name}`"
              :title="one.title"
              :on="column === one.name"
              :against="against"
              @order="order(one.name)"
            />
            <span v-if="one.name === 'name'" role="columnheader" class="of-weeks">26 weeks</span>
          </template>
          <span role="columnheader" class="of-belongs">Belongs in</span>
        </div>
        <p v-if="failed" class="list-note" role="alert">{{ failed.message }}</p>
        <p v-else-if="!rows.length && !loading" class="list-note">
          {{
            words
              ? 'Nothing is called that, or is as large, as often or as old. Try fewer words.'
              : all.length
                ? 'All are decided on. What is subscribed to later will stand here.'
                : 'No lists or newsletters so far. Once mail comes, whoever writes to many stands here.'
          }}
        </p>
        <div class="subscriptions-rows" :style="{ height: `${virtual.getTotalSize()}px` }">
          <div
            v-for="{ item, one } in seen"
            :key="one.key"
            class="subscription"
            role="row"
            :class="{ current: one.key === currentKey, picked: picked.has(one.key), decided: one.belongs }"
            :aria-current="one.key === currentKey ? 'true' : undefined"
            :data-subscription="one.key"
            :style="{ transform: `translateY(${item.start}px)` }"
            @click="click($event, one)"
          >
            <span role="cell" class="of-name">
              <input
                type="checkbox"
                class="form-check-input"
                :checked="picked.has(one.key)"
                :aria-label="`Select ${one.name}`"
                @click.stop
                @change="toggle(one.key)"
              />
              <bdi class="subscription-name">{{ one.name }}</bdi>
              <bdi class="subscription-domain">{{ one.domain }}</bdi>
            </span>
            <span role="cell" class="of-weeks">
              <svg
                viewBox="0 0 52 14"
                width="52"
                height="14"
                role="img"
                :aria-label="`most in a week: ${Math.max(...one.weeks)}`"
              >
                <path :d="bars(one.weeks)" />
              </svg>
            </span>
            <span role="cell" class="of-weekly">{{
              one.weekly ? (one.weekly < 10 ? one.weekly.toFixed(1) : Math.round(one.weekly)) : '–'
            }}</span>
            <span role="cell" class="of-total">{{ one.total }}</span>
            <span role="cell" class="of-size">{{ bytes(one.size) }}</span>
            <span role="cell" class="of-read">
              <i aria-hidden="true"><i :style="{ width: `${100 * one.read}%` }"></i></i>
              {{ Math.round(100 * one.read) }}%
            </span>
            <span role="cell" class="of-last_read" :title="one.last_read ? exact(one.last_read) : ''">{{
              one.last_read ? near(one.last_read) : 'never'
            }}</span>
            <span role="cell" class="of-first_seen" :title="exact(one.first_seen)">{{
              near(one.first_seen)
            }}</span>
            <span role="cell" class="of-address" :title="one.addresses.join(', ')"
              ><bdi>{{ one.addresses[0]?.replace(/@.*/, '') ?? '' }}</bdi
              >{{ one.addresses.length > 1 ? ` +${one.addresses.length - 1}` : '' }}</span
            >
            <span role="cell" class="of-belongs">{{ stands(one) }}</span>
          </div>
        </div>
      </div>
      <SubscriptionAbout
        :subscription="chosen.length === 1 ? chosen[0] : undefined"
        :chosen="chosen"
        :takers="takers"
        @put="put"
      />
    </div>
    <EffectStrip :titles="titles" />
  </div>
</template>
