<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import EditionPage from '../components/EditionPage.vue'
import EffectStrip from '../components/EffectStrip.vue'
import PlanForm from '../components/PlanForm.vue'
import { useAttempt } from '../composables/attempt'
import { useEditions, usePlans } from '../composables/editions'
import { usePlaces } from '../composables/places'
import { useTeaching } from '../composables/teaching'
import { daysWords } from '../lib/editions'
import { near } from '../lib/time'

const route = useRoute()
const { editions, loading, failed, hasMore, more } = useEditions()
const { plans, leftOut, zone, letIn } = usePlans()
const { takers, titles } = usePlaces()
const { attempt } = useAttempt(useTeaching().show)
/** The plan that is being described: 0 for a new one, none while an edition is read. */
const planning = ref<number | null>(null)
const number = computed(() => Number(route.params.edition) || (editions.value[0]?.id ?? 0))
const low = computed(() => takers.value.filter((place) => !place.important))
</script>

<template>
  <div class="editions">
    <nav class="editions-side" aria-label="Editions">
      <h1>Editions</h1>
      <ul class="editions-all">
        <li v-for="one in editions" :key="one.id">
          <RouterLink
            :to="`/editions/${one.id}`"
            :class="{ here: planning === null && one.id === number, unread: !one.read_at }"
            :aria-current="planning === null && one.id === number ? 'page' : undefined"
            @click="planning = null"
          >
            <bdi>{{ near(one.due) }}</bdi>
            <span
              ><bdi>{{ one.name }}</bdi
              >, {{ one.messages }}<span v-if="!one.read_at" class="visually-hidden">, unread</span></span
            >
          </RouterLink>
        </li>
      </ul>
      <button v-if="hasMore" type="button" class="quiet-button" @click="more">Older editions</button>
      <h2>Plans</h2>
      <ul class="editions-plans">
        <li v-for="one in plans" :key="one.id">
          <button
            type="button"
            :class="{ here: planning === one.id }"
            :data-plan="one.id"
            @click="planning = one.id"
          >
            <bdi>{{ one.name }}</bdi>
            <span v-if="one.next_due">{{ daysWords(one.days) }} {{ one.times.join(', ') }}</span>
            <span v-else>not in use</span>
          </button>
        </li>
      </ul>
      <button type="button" class="quiet-button" data-act="new-plan" @click="planning = 0">New plan</button>
      <template v-if="leftOut.length">
        <h2>In no edition</h2>
        <ul class="editions-plans">
          <li v-for="one in leftOut" :key="one.source">
            <bdi>{{ one.name }}</bdi>
            <button
              type="button"
              class="quiet-button"
              :aria-label="`Let ${one.name} in`"
              @click="attempt(() => letIn(one.source))"
            >
              let in
            </button>
          </li>
        </ul>
      </template>
    </nav>
    <div class="editions-main">
      <PlanForm
        v-if="planning !== null"
        :key="planning"
        :plan="plans.find((one) => one.id === planning)"
        :buckets="low"
        :zone="zone"
        @done="planning = null"
      />
      <EditionPage v-else-if="number" :number="number" />
      <p v-else-if="failed" class="list-note" role="alert">{{ failed.message }}</p>
      <div v-else-if="!loading" class="list-note">
        <p>No edition so far.</p>
        <p v-if="plans[0]?.next_due">
          The first of “{{ plans[0].name }}” comes {{ near(plans[0].next_due) }}, if there is mail for it.
        </p>
      </div>
    </div>
    <EffectStrip :titles="titles" />
  </div>
</template>
