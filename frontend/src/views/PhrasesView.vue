<script setup lang="ts">
import { ref } from 'vue'
import PhraseSettings from '../components/PhraseSettings.vue'

const said = ref('')
</script>

<template>
  <div class="page">
    <header class="page-head">
      <h1>Phrases</h1>
      <p role="status">{{ said || 'Text you write often, put in by its short name.' }}</p>
    </header>
    <div class="settings-columns">
      <PhraseSettings @said="(text) => (said = text)" />
    </div>
  </div>
</template>
