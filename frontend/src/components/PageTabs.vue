<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { PLACES, tabsOf } from '../pages'

const route = useRoute()
const tabs = computed(() => tabsOf(route.meta.place))
const label = computed(() => PLACES.find((one) => one.name === route.meta.place)?.title ?? '')
</script>

<template>
  <nav v-if="tabs.length" class="page-tabs" :aria-label="label">
    <RouterLink
      v-for="tab in tabs"
      :key="tab.name"
      :to="tab.to"
      :class="{ here: route.meta.tab === tab.name }"
      :aria-current="route.meta.tab === tab.name ? 'page' : undefined"
      >{{ tab.title }}</RouterLink
    >
  </nav>
</template>
