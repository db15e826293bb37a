<script setup lang="ts">
import { keyFor } from '../composables/actions'
import type { ActionName } from '../lib/actions'

/** The key of an action, where it has one. */
defineProps<{ of: ActionName | undefined }>()
</script>

<template>
  <kbd v-if="keyFor(of)">{{ keyFor(of) }}</kbd>
</template>
