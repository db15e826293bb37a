<script setup lang="ts">
import { useFailures } from '../composables/failures'

const { errors, trying, retry } = useFailures()
</script>

<template>
  <div v-if="errors.length" class="notice failure" role="group" aria-label="What could not be loaded">
    <div role="alert">
      <p v-for="why in errors" :key="why">
        Something here could not be loaded. <bdi>{{ why }}</bdi>
      </p>
    </div>
    <button type="button" class="plain-button" :disabled="trying" @click="retry">
      {{ trying ? 'Trying' : 'Try again' }}
    </button>
  </div>
</template>
