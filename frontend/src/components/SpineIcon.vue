<script setup lang="ts">
defineProps<{ name: 'desk' | 'journal' | 'bring-in' | 'settings' }>()

const PATHS = {
  desk: 'M3 8h18M5 8v11M19 8v11M9 8v3h6V8',
  journal: 'M6 3h12v18H6zM9 8h6M9 12h6M9 16h3',
  'bring-in': 'M4 15v5h16v-5M12 3v12M7.5 10.5 12 15l4.5-4.5',
  settings: 'M4 7h9M17 7h3M4 17h3M11 17h9M15 4.5v5M9 14.5v5',
}
</script>

<template>
  <svg viewBox="0 0 24 24" width="20" height="20" aria-hidden="true" class="spine-icon">
    <path :d="PATHS[name]" />
  </svg>
</template>
