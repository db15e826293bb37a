<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import type { Plan, PlanGiven, Place } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { usePlans } from '../composables/editions'
import { useSubscriptions } from '../composables/subscriptions'
import { DAY_NAMES } from '../lib/editions'

const props = defineProps<{ plan?: Plan; buckets: readonly Place[]; zone: string }>()
const emit = defineEmits<{ done: [] }>()

const { keep, remove } = usePlans()
const { all } = useSubscriptions()
const { problem, busy, attempt } = useAttempt()

const WEEKDAYS = 31
const plan = props.plan
const given = reactive({
  name: plan?.name ?? '',
  enabled: plan?.enabled ?? true,
  buckets: [...(plan?.buckets ?? [])],
  sources: [...(plan?.sources ?? [])],
  search: plan?.search ?? '',
  days: plan?.days ?? WEEKDAYS,
  times: (plan?.times ?? ['07:30']).join(', '),
  zone: plan?.zone ?? props.zone,
  grouped: plan?.grouped ?? 'list',
  length: plan?.length ?? 'medium',
  delivered: plan?.delivered ?? true,
})
const adding = ref('')
const names = computed(() => {
  const known = new Map(plan?.sources.map((source, at) => [source, plan.names[at] ?? source]))
  for (const one of all.value) known.set(one.key, one.name)
  return known
})
const offered = computed(() => all.value.filter((one) => !given.sources.includes(one.key)))

function add(): void {
  const one = offered.value.find((other) => other.key === adding.value)
  if (one) given.sources.push(...one.keys)
  adding.value = ''
}

async function save(): Promise<void> {
  const body: PlanGiven = {
    ...given,
    times: given.times.split(/[\s,;]+/).filter(Boolean),
  }
  if (await attempt(() => keep(plan?.id ?? 0, body))) emit('done')
}

async function takeAway(): Promise<void> {
  if (plan && (await attempt(() => remove(plan.id)))) emit('done')
}
</script>

<template>
  <form class="plan-form" aria-label="Edition plan" @submit.prevent="save">
    <h2>{{ plan ? 'The plan' : 'A new plan' }}</h2>
    <label for="plan-name">Name</label>
    <input id="plan-name" v-model="given.name" class="form-control" maxlength="60" required />
    <fieldset>
      <legend>Which mail</legend>
      <p class="plan-choices">
        <label v-for="place in buckets" :key="place.name">
          <input v-model="given.buckets" type="checkbox" class="form-check-input" :value="place.name" />
          all in {{ place.title }}
        </label>
      </p>
      <ul v-if="given.sources.length" class="plan-sources">
        <li v-for="source in given.sources" :key="source">
          <bdi>{{ names.get(source) ?? source }}</bdi>
          <button
            type="button"
            class="quiet-button"
            :aria-label="`Remove ${names.get(source) ?? source}`"
            @click="given.sources = given.sources.filter((one) => one !== source)"
          >
            Remove
          </button>
        </li>
      </ul>
      <select v-model="adding" class="form-select" aria-label="Add a list or sender" @change="add">
        <option value="">add a list or sender</option>
        <option v-for="one in offered" :key="one.key" :value="one.key">
          {{ one.name }}, {{ one.domain }}
        </option>
      </select>
      <label for="plan-search">and what a search finds</label>
      <input
        id="plan-search"
        v-model="given.search"
        class="form-control"
        placeholder="subject:offer larger:1MB"
        maxlength="2000"
      />
    </fieldset>
    <fieldset>
      <legend>When</legend>
      <p class="plan-choices">
        <label v-for="(day, number) in DAY_NAMES" :key="day">
          <input
            type="checkbox"
            class="form-check-input"
            :checked="Boolean((given.days >> number) & 1)"
            @change="given.days ^= 1 << number"
          />
          {{ day }}
        </label>
      </p>
      <label for="plan-times">at</label>
      <input id="plan-times" v-model="given.times" class="form-control" placeholder="07:30, 17:00" />
      <label for="plan-zone">by the clocks of</label>
      <input id="plan-zone" v-model="given.zone" class="form-control" maxlength="100" />
    </fieldset>
    <fieldset>
      <legend>How</legend>
      <label for="plan-grouped">grouped by</label>
      <select id="plan-grouped" v-model="given.grouped" class="form-select">
        <option value="list">list, or else sender</option>
        <option value="sender">sender</option>
        <option value="topic">what it is about</option>
      </select>
      <label for="plan-length">how much of each</label>
      <select id="plan-length" v-model="given.length" class="form-select">
        <option value="short">briefly: one sentence of the first eight</option>
        <option value="medium">three sentences of the first twenty</option>
        <option value="long">at length: five sentences of the first sixty</option>
      </select>
      <p class="plan-choices">
        <label>
          <input v-model="given.delivered" type="checkbox" class="form-check-input" /> also as a message on
          the Desk
        </label>
        <label><input v-model="given.enabled" type="checkbox" class="form-check-input" /> in use</label>
      </p>
    </fieldset>
    <p v-if="problem" role="alert" class="plan-problem">{{ problem }}</p>
    <p class="plan-buttons">
      <button type="submit" class="strong-button" :disabled="busy">Save</button>
      <button type="button" class="plain-button" @click="emit('done')">Cancel</button>
      <button v-if="plan" type="button" class="quiet-button" :disabled="busy" @click="takeAway">
        Remove the plan
      </button>
    </p>
  </form>
</template>
