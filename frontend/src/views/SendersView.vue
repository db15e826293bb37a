<script setup lang="ts">
import { ref } from 'vue'
import PictureSettings from '../components/PictureSettings.vue'
import SureSettings from '../components/SureSettings.vue'
import { useSettings } from '../composables/owner'

const said = ref('')
const { settings, save } = useSettings((text) => (said.value = text))
</script>

<template>
  <div class="page">
    <header class="page-head">
      <h1>Senders</h1>
      <p role="status">{{ said || 'Whom you vouch for, whose findings about senders are believed.' }}</p>
    </header>
    <div class="settings-columns">
      <SureSettings v-if="settings" :settings="settings" @save="save" />
      <PictureSettings @said="(text) => (said = text)" />
    </div>
  </div>
</template>
