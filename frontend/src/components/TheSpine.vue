<script setup lang="ts">
import { useNow } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { keyFor, run } from '../composables/actions'
import { useAway } from '../composables/away'
import { useStatus } from '../composables/events'
import { useEditions } from '../composables/editions'
import { useVisits } from '../composables/lately'
import { useMailboxes } from '../composables/mailboxes'
import { noticeOf, usePlaces } from '../composables/places'
import DeliveryControl from './DeliveryControl.vue'
import SpineIcon from './SpineIcon.vue'
import SpineTags from './SpineTags.vue'

const emit = defineEmits<{ help: [] }>()

const MINUTE = 60_000
const DROPS = ['archive', 'junk', 'trash']
const route = useRoute()
const { band, quiet, folders } = usePlaces()
const calm = computed(() => [...quiet.value, ...folders.value])
/** The entry that is on; none where a place below them is. */
const here = computed(() =>
  calm.value.some((one) => one.name === route.params.place) ? '' : (route.meta.within ?? route.name),
)
const { connected } = useStatus()
const { notice: away } = useAway()
const { mailboxes } = useMailboxes()
const { unread: toRead } = useEditions()
const failing = computed(() => mailboxes.value.some((one) => one.error))
const now = useNow({ interval: MINUTE })
const over = ref('')
useVisits()
const waiting = computed(() =>
  band.value
    .map((place) => ({ place, notice: noticeOf(place, now.value.getTime() / 1000) }))
    .filter((one) => one.notice !== '' && one.place.name !== route.params.place),
)
const entries = [
  { name: 'mail', to: '/in/desk', title: 'Desk', icon: 'desk' },
  { name: 'outgoing', to: '/outgoing', title: 'Outgoing', icon: 'outgoing' },
  { name: 'follow-up', to: '/follow-up', title: 'Follow-up', icon: 'follow-up' },
  { name: 'editions', to: '/editions', title: 'Editions', icon: 'editions' },
  { name: 'subscriptions', to: '/subscriptions', title: 'Subscriptions', icon: 'subscriptions' },
  { name: 'search', to: '/search', title: 'Search', icon: 'search' },
  { name: 'settings', to: '/settings', title: 'Settings', icon: 'settings' },
] as const

function takes(name: string): boolean {
  return DROPS.includes(name) || folders.value.some((one) => one.name === name)
}

function dropped(name: string): void {
  over.value = ''
  if (takes(name)) run('drop', name)
}
</script>

<template>
  <nav class="spine" aria-label="Places of the application">
    <RouterLink
      v-for="entry in entries"
      :key="entry.name"
      :to="entry.to"
      class="spine-entry"
      :class="{ here: here === entry.name }"
      :aria-current="here === entry.name ? 'page' : undefined"
    >
      <SpineIcon :name="entry.icon" />
      <span>{{ entry.title }}</span>
    </RouterLink>
    <ul v-if="waiting.length || toRead" class="spine-waiting" aria-label="Wants to be looked at">
      <li v-if="toRead">
        <RouterLink to="/editions"><strong>Edition</strong> {{ toRead }} to read</RouterLink>
      </li>
      <li v-for="{ place, notice } in waiting" :key="place.name">
        <RouterLink :to="`/in/${place.name}`"
          ><strong>{{ place.title }}</strong> {{ notice }}</RouterLink
        >
      </li>
    </ul>
    <SpineTags />
    <ul class="spine-quiet" aria-label="Other places">
      <li v-for="place in calm" :key="place.name">
        <RouterLink
          :to="`/in/${place.name}`"
          :class="{ here: route.params.place === place.name, over: over === place.name }"
          :title="`${place.title}, ${place.total} messages`"
          :data-place="place.name"
          @dragover.prevent="over = takes(place.name) ? place.name : ''"
          @dragleave="over = ''"
          @drop.prevent="dropped(place.name)"
          >{{ place.title }}</RouterLink
        >
      </li>
      <li>
        <RouterLink to="/mailboxes" :class="{ here: here === 'mailboxes', troubled: failing }"
          >Mailboxes<span v-if="failing" class="visually-hidden">, one cannot be reached</span></RouterLink
        >
      </li>
      <li><RouterLink to="/queues" :class="{ here: here === 'queues' }">Queues</RouterLink></li>
      <li>
        <RouterLink to="/away" :class="{ here: here === 'away' }"
          >Away<strong v-if="away?.holds"> until {{ away.ends_shown }}</strong></RouterLink
        >
      </li>
      <li><RouterLink to="/rules" :class="{ here: here === 'rules' }">Rules</RouterLink></li>
      <li><RouterLink to="/journal" :class="{ here: here === 'journal' }">Journal</RouterLink></li>
      <li><RouterLink to="/import" :class="{ here: here === 'import' }">Import</RouterLink></li>
    </ul>
    <div class="spine-foot">
      <DeliveryControl />
      <button type="button" class="spine-keys" @click="run('command')">
        Commands <kbd>{{ keyFor('command') || '…' }}</kbd>
      </button>
      <button type="button" class="spine-keys" @click="emit('help')">
        Keys <kbd>{{ keyFor('help') || '…' }}</kbd>
      </button>
      <p v-if="!connected" class="spine-state" role="alert">no connection, retrying</p>
    </div>
  </nav>
</template>
