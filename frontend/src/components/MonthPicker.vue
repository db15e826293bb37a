<script setup lang="ts">
import { computed, ref } from 'vue'

/** A small month: a click on a day says it. */
const emit = defineEmits<{ pick: [day: string] }>()

const WEEK = 7
const MONDAY_FIRST = 6
const now = new Date()
const shown = ref(new Date(now.getFullYear(), now.getMonth(), 1))
const title = computed(() => shown.value.toLocaleDateString(undefined, { month: 'long', year: 'numeric' }))
const names = computed(() =>
  Array.from({ length: WEEK }, (_, day) =>
    new Date(2024, 0, day + 1).toLocaleDateString(undefined, { weekday: 'narrow' }),
  ),
)
/** The weeks of the month, Monday first; what is over cannot be chosen. */
const weeks = computed(() => {
  const first = shown.value
  const lead = (first.getDay() + MONDAY_FIRST) % WEEK
  const days = new Date(first.getFullYear(), first.getMonth() + 1, 0).getDate()
  const cells = Array.from({ length: Math.ceil((lead + days) / WEEK) * WEEK }, (_, at) => at - lead + 1)
  return Array.from({ length: cells.length / WEEK }, (_, week) =>
    cells.slice(week * WEEK, (week + 1) * WEEK).map((day) => (day >= 1 && day <= days ? dayOf(day) : null)),
  )
})
const isFirst = computed(
  () => shown.value.getTime() <= new Date(now.getFullYear(), now.getMonth(), 1).getTime(),
)

function dayOf(day: number) {
  const date = new Date(shown.value.getFullYear(), shown.value.getMonth(), day)
  const two = (number: number) => String(number).padStart(2, '0')
  return {
    day,
    said: `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(day)}`,
    name: date.toLocaleDateString(undefined, { weekday: 'long', day: 'numeric', month: 'long' }),
    over: date.getTime() < new Date(now.getFullYear(), now.getMonth(), now.getDate()).getTime(),
    today: date.toDateString() === now.toDateString(),
  }
}

function turn(by: number): void {
  shown.value = new Date(shown.value.getFullYear(), shown.value.getMonth() + by, 1)
}
</script>

<template>
  <div class="month" role="group" :aria-label="title">
    <p>
      <button
        type="button"
        class="quiet-button"
        :disabled="isFirst"
        aria-label="Month before"
        @click="turn(-1)"
      >
        ‹
      </button>
      <span aria-live="polite">{{ title }}</span>
      <button type="button" class="quiet-button" aria-label="Next month" @click="turn(1)">›</button>
    </p>
    <table>
      <thead aria-hidden="true">
        <tr>
          <th v-for="(name, at) in names" :key="at">{{ name }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(week, at) in weeks" :key="at">
          <td v-for="(one, index) in week" :key="index">
            <button
              v-if="one"
              type="button"
              :disabled="one.over"
              :class="{ today: one.today }"
              :aria-label="one.name"
              :data-day="one.said"
              @click="emit('pick', one.said)"
            >
              {{ one.day }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
