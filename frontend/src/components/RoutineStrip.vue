<script setup lang="ts">
import { computed } from 'vue'
import { useRoutineRuns } from '../composables/routines'
import { subjectOf } from '../lib/words'

const emit = defineEmits<{ others: [] }>()

const SHOWN = 5
const { halted, running, leave } = useRoutineRuns()
const others = computed(() => (halted.value ? halted.value.what.ids.length - halted.value.refused.length : 0))
</script>

<template>
  <div v-if="running && running.of > 1" class="routine-strip progress-line" role="status">
    <span>Under way</span>
    <progress :value="running.done" :max="running.of" aria-label="Doing the routine" />
  </div>
  <div v-else-if="halted" class="routine-strip" role="group" aria-label="What the routine cannot do">
    <p role="alert">
      “<bdi>{{ halted.routine.name }}</bdi
      >” cannot be done to {{ halted.refused.length }} of {{ halted.what.ids.length }}. Nothing is done yet.
    </p>
    <ul>
      <li v-for="one in halted.refused.slice(0, SHOWN)" :key="one.message">
        “<bdi>{{ subjectOf(one.subject) }}</bdi
        >”: {{ one.why }}
      </li>
      <li v-if="halted.refused.length > SHOWN">and {{ halted.refused.length - SHOWN }} more</li>
    </ul>
    <p class="phrase-acts">
      <button
        v-if="others"
        type="button"
        class="plain-button"
        data-act="routine-others"
        @click="emit('others')"
      >
        Do it to the other {{ others }}
      </button>
      <button type="button" class="quiet-button" @click="leave">Cancel</button>
    </p>
  </div>
</template>
