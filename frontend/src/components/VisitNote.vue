<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { closedNotes } from '../composables/settings'

/** On the first visits of a page one line says what it is for; closed, it is gone for good in this browser. */
const route = useRoute()
const name = computed(() => String(route.name ?? ''))
const about = computed(() => (closedNotes.value.includes(name.value) ? '' : (route.meta.about ?? '')))
</script>

<template>
  <p v-if="about" class="visit-note" role="note">
    <span>{{ about }}</span>
    <button type="button" class="quiet-button" @click="closedNotes = [...closedNotes, name]">Close</button>
  </p>
</template>
