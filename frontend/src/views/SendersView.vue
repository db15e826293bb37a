<script setup lang="ts">
import { ref } from 'vue'
import PictureSettings from '../components/PictureSettings.vue'
import EffectStrip from '../components/EffectStrip.vue'
import SaidList from '../components/SaidList.vue'
import SureSettings from '../components/SureSettings.vue'
import { useSettings } from '../composables/owner'
import { usePlaces } from '../composables/places'

const said = ref('')
const { titles } = usePlaces()
const { settings, save } = useSettings((text) => (said.value = text))
</script>

<template>
  <div class="page">
    <header class="page-head">
      <h1>Senders</h1>
      <p role="status">{{ said || 'Whom you vouch for, whose findings about senders are believed.' }}</p>
    </header>
    <div class="settings-columns">
      <SaidList />
      <SureSettings v-if="settings" :settings="settings" @save="save" />
      <PictureSettings @said="(text) => (said = text)" />
    </div>
    <EffectStrip :titles="titles" />
  </div>
</template>
