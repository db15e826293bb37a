<script setup lang="ts">
import { ref } from 'vue'
import { useRoute } from 'vue-router'
import KeyHelp from './components/KeyHelp.vue'
import TheSpine from './components/TheSpine.vue'
import { useEvents } from './composables/events'
import { useKeys } from './composables/keys'
import { useTheme } from './composables/settings'
import { useTeaching } from './composables/teaching'

const route = useRoute()
const help = ref(false)
const { said, undo } = useTeaching()

useTheme()
useEvents()
useKeys({
  help: () => (help.value = true),
  undo: () => void undo(),
})
</script>

<template>
  <a class="visually-hidden-focusable skip" href="#main">To the mail</a>
  <div class="frame">
    <TheSpine @help="help = true" />
    <main id="main" class="frame-main" tabindex="-1">
      <RouterView :key="String(route.name)" />
    </main>
  </div>
  <div class="visually-hidden" role="status" aria-live="polite">{{ said }}</div>
  <KeyHelp v-model="help" />
</template>
