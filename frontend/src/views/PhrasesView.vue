<script setup lang="ts">
import PartPage from '../components/PartPage.vue'
import PhraseSettings from '../components/PhraseSettings.vue'
</script>

<template>
  <PartPage
    v-slot="{ say }"
    title="Phrases"
    about="Text you write often. Type its short name and Tab while you write."
  >
    <PhraseSettings @said="say" />
  </PartPage>
</template>
