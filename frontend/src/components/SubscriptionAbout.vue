<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import type { Place, Subscription } from '../api/client'
import { useVerbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { usePlans } from '../composables/editions'
import { usePlaces } from '../composables/places'
import { useTeaching } from '../composables/teaching'
import { useAbout, useSubscriptions } from '../composables/subscriptions'
import { ASKED, doesItself } from '../lib/subscriptions'
import { near } from '../lib/time'
import { subjectOf } from '../lib/words'
import KeyCap from './KeyCap.vue'
import LeavingWay from './LeavingWay.vue'
import SubscriptionsLeave from './SubscriptionsLeave.vue'

const props = defineProps<{
  subscription?: Subscription
  /** What a decision is about. */
  chosen: readonly Subscription[]
  takers: readonly Place[]
}>()
const emit = defineEmits<{ put: [target: string] }>()

const LOOK_AFTER = 150
const key = refDebounced(
  computed(() => props.subscription?.key ?? ''),
  LOOK_AFTER,
)
const { about: answered } = useAbout(key)
/** What is told of the very subscription that stands here, never of the one before. */
const about = computed(() => (key.value === props.subscription?.key ? answered.value : undefined))
const { plans, assign } = usePlans()
const teaching = useTeaching()
const { putOf } = usePlaces()
const { attempt, answer, busy } = useAttempt(teaching.show)
const { unsubscribe } = useSubscriptions()
/** Whether it is told what unsubscribing would do: nothing is asked of anybody before the owner says so. */
const asking = ref(false)
/** The key was pressed before it was told how the subscription can be ended. */
const early = ref(false)
const confirm = ref<HTMLElement | null>(null)
watch(
  () => props.subscription?.key,
  () => {
    asking.value = early.value = false
  },
)
const offer = computed(() => about.value?.offer)
const does = computed(() => doesItself(offer.value))
const ends = computed(() =>
  offer.value?.way === 'mailto' ? 'Send this message' : `Ask ${offer.value?.target ?? ''} to stop`,
)

/** First tells what would be done, then does it. */
async function leave(): Promise<void> {
  const one = props.subscription
  if (!one) return
  if (!offer.value) {
    early.value = true
    return
  }
  if (!asking.value) {
    asking.value = true
    await nextTick()
    confirm.value?.focus()
    return
  }
  if (!does.value) return
  asking.value = false
  const asked = await answer(() => unsubscribe(one))
  if (asked) teaching.show(`${one.name}: ${ASKED[asked.outcome]}. ${asked.words}`)
}
useVerbs({ unsubscribe: leave })
watch(offer, (now) => {
  if (now && early.value) {
    early.value = false
    void leave()
  }
})

/** The plan that names the subscription, or 0. */
const named = computed(
  () =>
    plans.value.find((one) => props.subscription && one.sources.includes(props.subscription.key))?.id ?? 0,
)
const SIGNS = {
  list: 'A mailing list, by its own header.',
  bulk: 'Says of itself that it goes to many.',
  habit: 'Found by its habits: regular, never answered, without a header that says so.',
} as const
const STANDINGS = {
  aligned: 'Your server found that it comes from there.',
  unaligned: 'Nothing your server checked speaks for that.',
  forged: 'Your server says that it did not come from there.',
  absent: 'Where it comes from was not checked by a server you believe.',
} as const

function label(place: Place): string {
  return place.name === 'drain' ? 'Refuse' : place.title
}
</script>

<template>
  <aside class="about" aria-label="The subscription">
    <template v-if="subscription">
      <h2>
        <bdi>{{ subscription.name }}</bdi>
      </h2>
      <p v-if="about?.description && about.description !== subscription.name" class="about-said">
        “<bdi>{{ about.description }}</bdi
        >”
      </p>
      <p>
        {{ SIGNS[subscription.sign] }}
        <template v-if="about"
          >Writes from <bdi>{{ about.domain }}</bdi>.
          <span :class="{ troubled: about.standing === 'forged' }">{{
            STANDINGS[about.standing]
          }}</span></template
        >
      </p>
      <p v-if="subscription.keys.length > 1">
        {{ subscription.keys.length }} addresses or lists put together:
        <bdi>{{ subscription.keys.map((one) => one.replace(/^\w+:/, '')).join(', ') }}</bdi>
      </p>
      <h3>Latest</h3>
      <ul class="about-recent">
        <li v-for="message in about?.recent ?? []" :key="message.id">
          <RouterLink :to="`/in/${message.place}/${message.id}`"
            ><bdi>{{ subjectOf(message.subject) }}</bdi></RouterLink
          >
          <time>{{ near(message.time) }}</time>
        </li>
      </ul>
      <label v-if="plans.length > 1 || named" class="about-edition">
        Edition
        <select
          class="form-select"
          :value="named"
          @change="
            attempt(() =>
              assign(subscription?.keys ?? [], Number(($event.target as HTMLSelectElement).value)),
            )
          "
        >
          <option :value="0">where its bucket goes</option>
          <option v-for="one in plans" :key="one.id" :value="one.id">{{ one.name }}</option>
        </select>
      </label>
      <p v-if="subscription.came_back" class="troubled">
        {{ subscription.came_back }} came all the same, {{ near(subscription.unsubscribed) }} it was asked to
        stop. Refuse it.
      </p>
      <ul v-if="about?.asked.length" class="about-asked" aria-label="What was asked">
        <li v-for="(one, index) in about.asked" :key="index">
          {{ near(one.at) }}, {{ one.target }}: {{ ASKED[one.outcome] }}. {{ one.words }}
        </li>
      </ul>
      <div v-if="offer" class="about-leave">
        <button v-if="!asking" type="button" class="quiet-button" data-act="unsubscribe" @click="leave">
          <KeyCap of="unsubscribe" /> Unsubscribe
        </button>
        <div v-else role="group" aria-label="Unsubscribe">
          <LeavingWay :offer="offer" />
          <button
            v-if="does"
            ref="confirm"
            type="button"
            class="strong-button"
            :disabled="busy"
            data-act="leave"
            @click="leave"
          >
            {{ ends }}
          </button>
          <button type="button" class="quiet-button" @click="asking = false">Cancel</button>
        </div>
      </div>
      <p v-if="subscription.addresses.length">Comes to {{ subscription.addresses.join(', ') }}.</p>
    </template>
    <template v-else-if="chosen.length">
      <h2>{{ chosen.length }} selected</h2>
      <SubscriptionsLeave :chosen="chosen" />
    </template>
    <div v-if="chosen.length" class="about-verdict" role="group" aria-label="Where all its mail belongs">
      <p>
        {{ chosen.length > 1 ? `All mail of these ${chosen.length} belongs in` : 'All its mail belongs in' }}
      </p>
      <button
        v-for="place in takers"
        :key="place.name"
        type="button"
        class="verdict-button"
        :class="{ stands: chosen.length === 1 && chosen[0]?.belongs === place.name }"
        :data-put="place.name"
        @click="emit('put', place.name)"
      >
        <KeyCap :of="putOf(place.name)" />{{ label(place) }}
      </button>
    </div>
  </aside>
</template>
