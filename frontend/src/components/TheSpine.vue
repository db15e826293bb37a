<script setup lang="ts">
import { useNow } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { keyFor, run } from '../composables/actions'
import { useAway } from '../composables/away'
import { useStatus } from '../composables/events'
import { useEditions } from '../composables/editions'
import { useVisits } from '../composables/lately'
import { useMailboxes } from '../composables/mailboxes'
import { noticeOf, usePlaces } from '../composables/places'
import { useQueues } from '../composables/queues'
import { useSavedSearches } from '../composables/search'
import { folded } from '../composables/settings'
import { PLACES } from '../pages'
import DeliveryControl from './DeliveryControl.vue'
import SpineIcon from './SpineIcon.vue'
import SpineSection from './SpineSection.vue'
import SpineTags from './SpineTags.vue'

const emit = defineEmits<{ help: []; guide: [] }>()

const MINUTE = 60_000
const DROPS = ['archive', 'junk', 'trash']
const route = useRoute()
const router = useRouter()
const { band, quiet, folders } = usePlaces()
const calm = computed(() => [...quiet.value, ...folders.value])
/** The place that is on; none where a folder below is open. */
const here = computed(() =>
  calm.value.some((one) => one.name === route.params.place) ? '' : route.meta.place,
)
const { connected } = useStatus()
const { notice: away } = useAway()
const { saved } = useSavedSearches()
const { all: queues } = useQueues()
const { mailboxes } = useMailboxes()
const { unread: toRead } = useEditions()
const failing = computed(() => mailboxes.value.some((one) => one.error))
const now = useNow({ interval: MINUTE })
const over = ref('')
const line = ref('')
useVisits()
const waiting = computed(() =>
  band.value
    .map((place) => ({ place, notice: noticeOf(place, now.value.getTime() / 1000) }))
    .filter((one) => one.notice !== '' && one.place.name !== route.params.place),
)
function find(): void {
  void router.push({ name: 'search', query: { line: line.value.trim() } })
  line.value = ''
}

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
    <form class="spine-search" role="search" aria-label="All mail" @submit.prevent="find">
      <SpineIcon name="search" />
      <input
        v-model="line"
        class="form-control"
        type="search"
        aria-label="Search mail"
        placeholder="Search mail"
      />
    </form>
    <RouterLink
      v-for="one in PLACES"
      :key="one.name"
      :to="one.to"
      class="spine-entry"
      :class="{ here: here === one.name, troubled: one.name === 'settings' && failing }"
      :aria-current="here === one.name ? 'page' : undefined"
    >
      <SpineIcon :name="one.name" />
      <span>{{ one.title }}</span>
      <span v-if="one.name === 'settings' && failing" class="visually-hidden"
        >, a mailbox cannot be reached</span
      >
    </RouterLink>
    <ul
      v-if="waiting.length || toRead || away?.holds"
      class="spine-waiting"
      aria-label="Wants to be looked at"
    >
      <li v-if="away?.holds">
        <RouterLink to="/away"><strong>Away</strong> until {{ away.ends_shown }}</RouterLink>
      </li>
      <li v-if="toRead">
        <RouterLink to="/editions"><strong>Edition</strong> {{ toRead }} to read</RouterLink>
      </li>
      <li v-for="{ place, notice } in waiting" :key="place.name">
        <RouterLink :to="`/in/${place.name}`"
          ><strong>{{ place.title }}</strong> {{ notice }}</RouterLink
        >
      </li>
    </ul>
    <div class="spine-lists">
      <SpineSection v-model:folded="folded.folders" title="Folders" class="spine-quiet">
        <li v-for="place in calm" :key="place.name">
          <RouterLink
            :to="`/in/${place.name}`"
            :class="{ here: route.params.place === place.name, over: over === place.name }"
            :title="`${place.title}, ${place.total} messages`"
            :data-place="place.name"
            @dragover.prevent="over = takes(place.name) ? place.name : ''"
            @dragleave="over = ''"
            @drop.prevent="dropped(place.name)"
            ><bdi>{{ place.title }}</bdi
            ><span v-if="place.total" class="spine-count">{{
              place.total.toLocaleString()
            }}</span></RouterLink
          >
        </li>
      </SpineSection>
      <SpineSection
        v-model:folded="folded.searches"
        title="Searches"
        label="Searches and queues"
        class="spine-quiet"
      >
        <li v-for="one in queues" :key="`queue ${one.id}`">
          <RouterLink :to="`/queues/${one.id}`" :class="{ here: route.path === `/queues/${one.id}` }"
            ><bdi>{{ one.name }}</bdi
            ><span class="spine-count">queue</span></RouterLink
          >
        </li>
        <li v-for="one in saved" :key="one.id">
          <RouterLink
            :to="{ name: 'search', query: { line: one.line } }"
            :class="{ here: route.name === 'search' && route.query.line === one.line }"
            :title="one.line"
            ><bdi>{{ one.name }}</bdi></RouterLink
          >
        </li>
        <li>
          <RouterLink to="/queues" :class="{ here: route.path === '/queues' }"><bdi>Queues</bdi></RouterLink>
        </li>
      </SpineSection>
      <SpineTags />
    </div>
    <div class="spine-foot">
      <DeliveryControl />
      <div class="spine-help">
        <button type="button" class="spine-keys" @click="run('command')">
          Commands <kbd>{{ keyFor('command') || '…' }}</kbd>
        </button>
        <button type="button" class="spine-keys" @click="emit('help')">
          Keys <kbd>{{ keyFor('help') || '…' }}</kbd>
        </button>
        <button type="button" class="spine-keys" @click="emit('guide')">Guide</button>
      </div>
      <p v-if="!connected" class="spine-state" role="alert">no connection, retrying</p>
    </div>
  </nav>
</template>
