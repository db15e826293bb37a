<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import AddressAbout from '../components/AddressAbout.vue'
import EffectStrip from '../components/EffectStrip.vue'
import { useVerbs } from '../composables/actions'
import { useAddresses } from '../composables/addresses'
import { useAttempt } from '../composables/attempt'
import { useKeyed } from '../composables/keyed'
import { usePlaces } from '../composables/places'
import { useTeaching } from '../composables/teaching'
import { isGiven, lineOf, partsOf, purposeWords } from '../lib/addresses'
import { exact, near } from '../lib/time'

const router = useRouter()
const { all, loading, failed, make } = useAddresses()
const { titles } = usePlaces()
const teaching = useTeaching()
const { attempt, busy } = useAttempt(teaching.show)

const rows = computed(() => all.value.map((one) => ({ ...one, key: one.address })))
const { currentKey, at, current, verbs } = useKeyed(rows)
const bases = computed(() => all.value.filter((one) => one.own).map((one) => one.address))
const base = ref('')
const givenTo = ref('')

watch(bases, (now) => (base.value = now.includes(base.value) ? base.value : (now[0] ?? '')), {
  immediate: true,
})
watch(at, () =>
  nextTick(() => document.querySelector('.address-row.current')?.scrollIntoView({ block: 'nearest' })),
)

function open(): void {
  if (current.value?.total)
    void router.push({ name: 'search', query: { line: lineOf(current.value.address), order: 'time' } })
}

async function makeOne(): Promise<void> {
  await attempt(async () => {
    const made = await make(base.value, givenTo.value)
    givenTo.value = ''
    currentKey.value = made.address
    teaching.show(`${made.address} is yours to give away. Mail to it comes to ${base.value}.`)
  })
}

useVerbs({ next: verbs.next, previous: verbs.previous, open })
</script>

<template>
  <div class="subscriptions addresses">
    <header class="subscriptions-head">
      <h1>Addresses</h1>
      <p class="subscriptions-count" role="status">
        <template v-if="all.length">Which of your addresses brings what</template>
      </p>
      <form class="address-maker" @submit.prevent="makeOne">
        <label for="maker-base">New address of</label>
        <select id="maker-base" v-model="base" class="form-select">
          <option v-for="one in bases" :key="one" :value="one">{{ one }}</option>
        </select>
        <label for="maker-for">for</label>
        <input
          id="maker-for"
          v-model="givenTo"
          class="form-control"
          maxlength="200"
          placeholder="whom you give it to"
        />
        <button type="submit" class="plain-button" :disabled="busy || !base || !givenTo.trim()">
          Create
        </button>
      </form>
    </header>
    <div class="subscriptions-body">
      <div class="subscriptions-list" role="table" aria-label="Your addresses">
        <div class="address-row subscription-titles" role="row">
          <span role="columnheader">Address</span>
          <span role="columnheader" class="number">Mail</span>
          <span role="columnheader">Noise</span>
          <span role="columnheader" class="number">Read</span>
          <span role="columnheader" class="number">From</span>
          <span role="columnheader">It is</span>
          <span role="columnheader">Given to</span>
          <span role="columnheader">First leak</span>
        </div>
        <p v-if="failed" class="list-note" role="alert">{{ failed.message }}</p>
        <p v-else-if="!rows.length && !loading" class="list-note">
          No addresses so far. Name yours in the settings, and what comes to each stands here.
        </p>
        <div
          v-for="row in rows"
          :key="row.key"
          class="address-row"
          role="row"
          :class="{ current: row.key === currentKey }"
          :aria-current="row.key === currentKey ? 'true' : undefined"
          :data-address="row.key"
          @click="currentKey = row.key"
          @dblclick="open"
        >
          <span role="cell" :title="row.address"
            ><bdi class="subscription-name">{{ partsOf(row.address)[0] }}</bdi
            ><bdi class="subscription-domain">{{ partsOf(row.address)[1] }}</bdi></span
          >
          <span role="cell" class="number">{{ row.total.toLocaleString() }}</span>
          <span role="cell" class="weight-bar">
            <template v-if="row.total">
              <i aria-hidden="true"><i :style="{ width: `${100 * row.noise}%` }"></i></i>
              {{ Math.round(100 * row.noise) }}%
            </template>
          </span>
          <span role="cell" class="number">{{ row.total ? `${Math.round(100 * row.read)}%` : '' }}</span>
          <span role="cell" class="number" title="organisations">{{ row.organisations || '' }}</span>
          <span role="cell">{{ purposeWords(row.purpose) }}</span>
          <span role="cell"
            ><bdi>{{ row.given_to }}</bdi></span
          >
          <span role="cell" class="troubled" :title="row.leak ? exact(row.leak.at) : ''">
            <template v-if="row.leak && isGiven(row)"
              >{{ near(row.leak.at) }}, <bdi>{{ row.leak.organisation }}</bdi></template
            >
          </span>
        </div>
      </div>
      <AddressAbout :address="current" @told="teaching.show" />
    </div>
    <EffectStrip :titles="titles" />
  </div>
</template>
