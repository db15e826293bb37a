<script setup lang="ts">
import { useRoute } from 'vue-router'

const route = useRoute()
const TABS = [
  { name: 'subscriptions', to: '/subscriptions', title: 'Subscriptions' },
  { name: 'weigh-in', to: '/weigh-in', title: 'Weigh-in' },
  { name: 'addresses', to: '/addresses', title: 'Addresses' },
] as const
</script>

<template>
  <nav class="bulk-tabs" aria-label="Bulk mail">
    <template v-for="tab in TABS" :key="tab.name">
      <h1 v-if="route.name === tab.name">{{ tab.title }}</h1>
      <RouterLink v-else :to="tab.to">{{ tab.title }}</RouterLink>
    </template>
  </nav>
</template>
