<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, onMounted, ref, useId } from 'vue'
import { client, unwrap } from '../api/client'
import { useTime } from '../composables/following'
import MonthPicker from './MonthPicker.vue'

/** A field for a time as people say it, which tells what it understood; with `people`, the hours at which the first of
 * them usually writes are offered. */
const props = defineProps<{ label: string; people?: string; focus?: boolean }>()
const said = defineModel<string>({ required: true })

const HOUR = 60
const id = useId()
const field = ref<HTMLInputElement>()
const { understood, problem } = useTime(said)
const person = computed(() => /[^\s<>,;]+@[^\s<>,;]+/.exec(props.people ?? '')?.[0] ?? '')
const { data: hours } = useQuery({
  queryKey: computed(() => ['hours', person.value] as const),
  queryFn: () => unwrap(client.GET('/api/hours', { params: { query: { address: person.value } } })),
  enabled: computed(() => person.value !== ''),
})

function apart(minutes: number): string {
  if (!minutes) return ''
  const hours = Math.abs(minutes / HOUR)
  return `, ${hours % 1 ? hours.toFixed(1) : hours} h ${minutes > 0 ? 'ahead of' : 'behind'} you`
}

const month = ref(false)

function picked(day: string): void {
  said.value = day
  month.value = false
}

onMounted(() => props.focus && field.value?.focus())
</script>

<template>
  <div class="when-field">
    <label :for="id">{{ label }}</label>
    <input
      :id="id"
      ref="field"
      v-model="said"
      autocomplete="off"
      placeholder="fri 14:00, in 3 days"
      :aria-describedby="`${id}-said`"
    />
    <button type="button" class="quiet-button" :aria-expanded="month" @click="month = !month">Month</button>
    <button v-if="said" type="button" class="quiet-button" @click="said = ''">Clear</button>
    <span :id="`${id}-said`" class="note" role="status">{{ problem || understood }}</span>
    <span v-if="hours?.length && !said" class="when-hours">
      usually writes at
      <button
        v-for="one in hours"
        :key="one.said"
        type="button"
        class="quiet-button"
        :title="`${one.shown} here`"
        @click="said = one.said"
      >
        {{ one.hour }}:00{{ apart(one.apart) }}
      </button>
    </span>
    <MonthPicker v-if="month" @pick="picked" />
  </div>
</template>
