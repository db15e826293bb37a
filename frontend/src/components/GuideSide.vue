<script setup lang="ts">
import { nextTick, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import guide from '../../../docs/guide.md?raw'
import { partsOf } from '../lib/guide'

const emit = defineEmits<{ close: [] }>()
const route = useRoute()
const parts = partsOf(guide)
const here = () => String(route.meta.guide)
const at = ref(here())
const text = ref<HTMLElement>()

watch(
  here,
  (now) => (at.value = now),
)
watch(at, show, { flush: 'post' })

/** The chosen part from its beginning. */
async function show(): Promise<void> {
  await nextTick()
  text.value?.scrollTo(0, 0)
}
</script>

<template>
  <aside class="guide" aria-label="Guide" @keydown.esc.stop="emit('close')">
    <header class="guide-head">
      <select v-model="at" class="form-select" aria-label="Part of the guide">
        <option v-for="part in parts" :key="part.heading">{{ part.heading }}</option>
      </select>
      <button type="button" class="quiet-button" @click="emit('close')">Close</button>
    </header>
    <div ref="text" class="guide-text" tabindex="0" role="region" :aria-label="at">
      <template v-for="part in parts" :key="part.heading">
        <section v-if="part.heading === at">
          <h2>{{ part.heading }}</h2>
          <!-- eslint-disable-next-line vue/no-v-html -- the guide that ships with the program -->
          <div v-html="part.html" />
        </section>
      </template>
    </div>
  </aside>
</template>
