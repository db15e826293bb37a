<script setup lang="ts">
import { ref } from 'vue'

/** A page that holds parts of what is set: its title, what it is for, and in its place what a part says was done. */
defineProps<{ title: string; about: string }>()
const said = ref('')
</script>

<template>
  <div class="page">
    <header class="page-head">
      <h1>{{ title }}</h1>
      <p role="status">{{ said || about }}</p>
    </header>
    <div class="settings-columns">
      <slot :say="(text: string) => (said = text)" />
    </div>
  </div>
</template>
