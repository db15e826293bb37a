<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'

const props = defineProps<{ of: 'bulk' | 'tags' }>()

const route = useRoute()
const GROUPS = {
  bulk: {
    label: 'Bulk mail',
    tabs: [
      { name: 'subscriptions', to: '/subscriptions', title: 'Subscriptions' },
      { name: 'weigh-in', to: '/weigh-in', title: 'Weigh-in' },
      { name: 'addresses', to: '/addresses', title: 'Addresses' },
    ],
  },
  tags: {
    label: 'Tags',
    tabs: [
      { name: 'tags', to: '/tags', title: 'Tags' },
      { name: 'topics', to: '/topics', title: 'Topics' },
    ],
  },
} as const
const group = computed(() => GROUPS[props.of])
</script>

<template>
  <nav class="page-tabs" :aria-label="group.label">
    <template v-for="tab in group.tabs" :key="tab.name">
      <h1 v-if="route.name === tab.name">{{ tab.title }}</h1>
      <RouterLink v-else :to="tab.to">{{ tab.title }}</RouterLink>
    </template>
  </nav>
</template>
