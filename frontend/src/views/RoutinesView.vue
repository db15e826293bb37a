<script setup lang="ts">
import PartPage from '../components/PartPage.vue'
import RoutineSettings from '../components/RoutineSettings.vue'
</script>

<template>
  <PartPage
    v-slot="{ say }"
    title="Routines"
    about="What you do with mail in a row, done by one key and undone as one step."
  >
    <RoutineSettings @said="say" />
  </PartPage>
</template>
