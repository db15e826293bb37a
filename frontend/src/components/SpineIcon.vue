<script setup lang="ts">
import type { PlaceName } from '../pages'

defineProps<{
  name: PlaceName | 'search'
}>()

const PATHS: Record<PlaceName | 'search', string> = {
  mail: 'M3 8h18M5 8v11M19 8v11M9 8v3h6V8',
  outgoing: 'M4 20l3.5-1L19 7.5 16.5 5 5 16.5zM14 7.5l2.5 2.5M12 20h8',
  'follow-up': 'M4 12h4M20 6v12M20 12h-8M15 8.5 11.5 12l3.5 3.5M8 9v6',
  editions: 'M5 4h11v16H5zM16 8h3v12H8M8 8h5M8 12h5M8 16h3',
  bulk: 'M4 6h9M4 12h9M4 18h9M18 5v14M15 8l3-3 3 3',
  automatic: 'M4 7h7l4 5-4 5H4M15 12h5M4 12h4',
  trust: 'M12 4v16M6 8h12M6 8l-3 6h6zM18 8l-3 6h6zM8 20h8',
  search: 'M10.5 4.5a6 6 0 1 1 0 12 6 6 0 0 1 0-12zM15 15l5 5',
  settings: 'M4 7h9M17 7h3M4 17h3M11 17h9M15 4.5v5M9 14.5v5',
}
</script>

<template>
  <svg viewBox="0 0 24 24" width="20" height="20" aria-hidden="true" class="spine-icon">
    <path :d="PATHS[name]" />
  </svg>
</template>
