<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { TAB_GROUPS, tabsOf, type TabGroup } from '../pages'

const props = defineProps<{ of: TabGroup }>()

const route = useRoute()
const tabs = computed(() => tabsOf(props.of))
</script>

<template>
  <nav class="page-tabs" :aria-label="TAB_GROUPS[of]">
    <template v-for="tab in tabs" :key="tab.name">
      <h1 v-if="route.name === tab.name">{{ tab.title }}</h1>
      <RouterLink v-else :to="tab.to">{{ tab.title }}</RouterLink>
    </template>
  </nav>
</template>
