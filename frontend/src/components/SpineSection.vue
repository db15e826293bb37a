<script setup lang="ts">
/** A part of the lists below the places, that folds away. */
defineProps<{ title: string; label?: string }>()
const folded = defineModel<boolean>('folded', { required: true })
</script>

<template>
  <section class="spine-section" :aria-label="label ?? title">
    <h2>
      <button type="button" :aria-expanded="!folded" @click="folded = !folded">{{ title }}</button>
      <slot name="beside" />
    </h2>
    <ul v-if="!folded">
      <slot />
    </ul>
  </section>
</template>
