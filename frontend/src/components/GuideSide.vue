<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import guide from '../../../docs/guide.md?raw'
import { useFocus } from '../composables/focus'
import { partsOf } from '../lib/guide'

const emit = defineEmits<{ close: [] }>()
const route = useRoute()
const parts = partsOf(guide)
const here = () => String(route.meta.guide)
const at = ref(here())
const part = computed(() => parts.find((one) => one.heading === at.value))
const choice = ref<HTMLElement>()
const text = ref<HTMLElement>()

watch(here, (now) => (at.value = now))
watch(at, () => text.value?.scrollTo(0, 0), { flush: 'post' })

useFocus(() => choice.value)
</script>

<template>
  <aside class="guide" aria-label="Guide" @keydown.esc.stop="emit('close')">
    <header class="guide-head">
      <select ref="choice" v-model="at" class="form-select" aria-label="Part of the guide">
        <option v-for="one in parts" :key="one.heading">{{ one.heading }}</option>
      </select>
      <button type="button" class="quiet-button" @click="emit('close')">Close</button>
    </header>
    <div v-if="part" ref="text" class="guide-text" tabindex="0" role="region" :aria-label="part.heading">
      <h2>{{ part.heading }}</h2>
      <!-- eslint-disable-next-line vue/no-v-html -- the guide that ships with the program -->
      <div v-html="part.html" />
    </div>
  </aside>
</template>
