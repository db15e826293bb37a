<script setup lang="ts">
import { onClickOutside } from '@vueuse/core'
import { ref, useId, useTemplateRef } from 'vue'

/** A mark that explains on the spot what it stands beside. */
defineProps<{ of: string; text: string }>()

const id = useId()
const open = ref(false)
const root = useTemplateRef<HTMLElement>('root')
onClickOutside(root, () => (open.value = false))
</script>

<template>
  <span ref="root" class="what" @keydown.esc.stop="open = false">
    <button
      type="button"
      class="what-mark"
      :aria-label="`What is this? ${of}`"
      :aria-expanded="open"
      :aria-controls="id"
      @click="open = !open"
    >
      ?
    </button>
    <span v-show="open" :id="id" class="what-text" role="note"
      ><bdi>{{ text }}</bdi></span
    >
  </span>
</template>
