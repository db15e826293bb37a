<script setup lang="ts">
/** The head of a column by which rows can be ordered: a press orders by it, another the other way. */
defineProps<{ title: string; on: boolean; against: boolean }>()
const emit = defineEmits<{ order: [] }>()
</script>

<template>
  <span role="columnheader" :aria-sort="on ? (against ? 'descending' : 'ascending') : 'none'">
    <button type="button" :class="{ on }" @click="emit('order')">
      {{ title }}<span v-if="on" aria-hidden="true">{{ against ? ' ↑' : ' ↓' }}</span>
    </button>
  </span>
</template>
