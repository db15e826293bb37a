<script setup lang="ts">
import { ref } from 'vue'
import RoutineSettings from '../components/RoutineSettings.vue'

const said = ref('')
</script>

<template>
  <div class="page">
    <header class="page-head">
      <h1>Routines</h1>
      <p role="status">{{ said || 'What you do with mail in a row, done by one key as one step.' }}</p>
    </header>
    <div class="settings-columns">
      <RoutineSettings @said="(text) => (said = text)" />
    </div>
  </div>
</template>
