<script setup lang="ts">
import { ref, watch } from 'vue'
import { useAttempt } from '../composables/attempt'
import { useFollowUpSettings } from '../composables/following'

const { settings, address, put, open, close } = useFollowUpSettings()
const { attempt, problem, busy } = useAttempt()
const morning = ref(8)
const answers = ref(true)

watch(
  settings,
  (now) => {
    if (now) [morning.value, answers.value] = [now.morning, now.answer_returns]
  },
  { immediate: true },
)

const keep = () => void attempt(() => put(morning.value, answers.value))
</script>

<template>
  <section class="follow-settings" aria-label="How it is followed through">
    <label
      >My day begins at
      <select v-model.number="morning" class="form-select form-select-sm" @change="keep">
        <option v-for="hour in 24" :key="hour" :value="hour - 1">{{ hour - 1 }}:00</option>
      </select></label
    >
    <label
      ><input v-model="answers" type="checkbox" @change="keep" /> An answer brings back what is parked until a
      day</label
    >
    <a class="quiet-button" href="/api/due.ics" download="due.ics">What is due, as a calendar file</a>
    <span class="follow-feed">
      <button type="button" class="quiet-button" :disabled="busy" @click="attempt(open)">
        {{ settings?.feed ? 'Another address for calendars' : 'An address for calendars' }}
      </button>
      <button
        v-if="settings?.feed"
        type="button"
        class="quiet-button"
        :disabled="busy"
        @click="attempt(close)"
      >
        Let no calendar read
      </button>
    </span>
    <p v-if="address" class="follow-address" role="status">
      Whoever has this address reads what is due, and nothing else. It is shown once:
      <input
        :value="address"
        readonly
        aria-label="Address for calendars"
        @focus="($event.target as HTMLInputElement).select()"
      />
    </p>
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
  </section>
</template>
