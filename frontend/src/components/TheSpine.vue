<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useStatus } from '../composables/events'
import DeliveryControl from './DeliveryControl.vue'
import SpineIcon from './SpineIcon.vue'

const emit = defineEmits<{ help: [] }>()

const route = useRoute()
const here = computed(() => route.meta.within ?? route.name)
const { connected } = useStatus()
const entries = [
  { name: 'mail', to: '/in/desk', title: 'Desk', icon: 'desk' },
  { name: 'journal', to: '/journal', title: 'Journal', icon: 'journal' },
  { name: 'bring-in', to: '/bring-in', title: 'Bring in', icon: 'bring-in' },
  { name: 'settings', to: '/settings', title: 'Settings', icon: 'settings' },
] as const
</script>

<template>
  <nav class="spine" aria-label="Places of the application">
    <RouterLink
      v-for="entry in entries"
      :key="entry.name"
      :to="entry.to"
      class="spine-entry"
      :class="{ here: here === entry.name }"
      :aria-current="here === entry.name ? 'page' : undefined"
    >
      <SpineIcon :name="entry.icon" />
      <span>{{ entry.title }}</span>
    </RouterLink>
    <div class="spine-foot">
      <DeliveryControl />
      <button type="button" class="spine-keys" @click="emit('help')">Keys <kbd>?</kbd></button>
      <p v-if="!connected" class="spine-state" role="alert">no connection, retrying</p>
    </div>
  </nav>
</template>
