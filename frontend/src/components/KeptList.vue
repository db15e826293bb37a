<script setup lang="ts">
/** What is kept on a page, one of it open in the form below. */
const open = defineModel<number>({ required: true })
defineProps<{
  label: string
  rows: readonly { id: number; name: string; text: string; about: string }[]
  none: string
}>()
</script>

<template>
  <ul class="phrase-list" :aria-label="label">
    <li v-for="one in rows" :key="one.id">
      <button
        type="button"
        :aria-pressed="one.id === open"
        :class="{ here: one.id === open }"
        :data-kept="one.name"
        @click="open = one.id"
      >
        <bdi class="phrase-short">{{ one.name }}</bdi>
        <bdi class="phrase-text">{{ one.text }}</bdi>
        <slot :about="one.about"
          ><span class="note">{{ one.about }}</span></slot
        >
      </button>
    </li>
    <li v-if="!rows.length && none" class="list-note">{{ none }}</li>
  </ul>
</template>
