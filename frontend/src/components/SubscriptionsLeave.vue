<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import type { Subscription } from '../api/client'
import { useVerbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { useSubscriptions, type Offered } from '../composables/subscriptions'
import { useTeaching } from '../composables/teaching'
import { ASKED, doesItself } from '../lib/subscriptions'
import KeyCap from './KeyCap.vue'
import LeavingWay from './LeavingWay.vue'

/** Several subscriptions unsubscribed from at once: first the way of each, then what came of each. */
const props = defineProps<{ chosen: readonly Subscription[] }>()

/** Subscriptions that are named before it is asked how they end. */
const NAMED = 6
const teaching = useTeaching()
const { offerOf, unsubscribe } = useSubscriptions()
const { attempt, busy } = useAttempt(teaching.show)
const offers = ref<ReadonlyMap<string, Offered>>(new Map())
const outcomes = ref<ReadonlyMap<string, string>>(new Map())
const confirm = useTemplateRef<HTMLElement>('confirm')
const keys = computed(() => props.chosen.map((one) => one.key).join('\n'))
const shown = computed(() => offers.value.size > 0)
const able = computed(() =>
  props.chosen.filter((one) => doesItself(offers.value.get(one.key)) && !outcomes.value.has(one.key)),
)

watch(keys, () => {
  offers.value = new Map()
  outcomes.value = new Map()
})

async function show(): Promise<void> {
  const those = keys.value
  await attempt(async () => {
    const found = await Promise.all(
      props.chosen.map(async (one) => [one.key, await offerOf(one.key)] as const),
    )
    if (keys.value !== those) return
    offers.value = new Map(found.flatMap(([key, offer]) => (offer ? [[key, offer] as const] : [])))
    if (!offers.value.size) teaching.show('None of these can be unsubscribed from. Refuse them instead.')
  })
  await nextTick()
  confirm.value?.focus()
}

/** One after the other; what one server answers stops none of the others, nor does selecting something else. */
async function leave(): Promise<void> {
  if (!shown.value) return show()
  const [those, asked] = [keys.value, able.value]
  await attempt(async () => {
    for (const one of asked) {
      const said = await unsubscribe(one).then(
        (came) => `${ASKED[came.outcome]}. ${came.words}`,
        (error: unknown) => `not done. ${error instanceof Error ? error.message : ''}`,
      )
      if (keys.value === those) outcomes.value = new Map([...outcomes.value, [one.key, said]])
    }
    if (keys.value !== those)
      teaching.show(`${asked.length} were asked to stop. What came of each stands beside it.`)
  })
}
useVerbs({ unsubscribe: leave })
</script>

<template>
  <div class="about-leave">
    <ul v-if="!shown" class="about-ways">
      <li v-for="one in chosen.slice(0, NAMED)" :key="one.key">
        <bdi class="about-way-name">{{ one.name }}</bdi>
        {{ one.total === 1 ? 'one message' : `${one.total} messages` }}
      </li>
      <li v-if="chosen.length > NAMED">and {{ chosen.length - NAMED }} more</li>
    </ul>
    <button v-if="!shown" type="button" class="quiet-button" data-act="unsubscribe" :disabled="busy" @click="show">
      <KeyCap of="unsubscribe" /> Unsubscribe from these
    </button>
    <div v-else role="group" aria-label="Unsubscribe from these">
      <ul class="about-ways" aria-live="polite">
        <li v-for="one in chosen" :key="one.key" :data-way="offers.get(one.key)?.way ?? 'none'">
          <bdi class="about-way-name">{{ one.name }}</bdi>
          <span v-if="outcomes.has(one.key)" class="about-way-done">{{ outcomes.get(one.key) }}</span>
          <LeavingWay v-else :offer="offers.get(one.key)" />
        </li>
      </ul>
      <button
        v-if="able.length"
        ref="confirm"
        type="button"
        class="strong-button"
        :disabled="busy"
        data-act="leave"
        @click="leave"
      >
        {{ able.length === 1 ? 'Ask this one to stop' : `Ask these ${able.length} to stop` }}
      </button>
    </div>
  </div>
</template>
