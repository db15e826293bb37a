<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { client, unwrap } from '../api/client'

const { data } = useQuery({
  queryKey: ['health'],
  queryFn: () => unwrap(client.GET('/api/health')),
})
const read = ref<string[]>([])
const troubles = computed(() => (data.value ?? []).filter((one) => !read.value.includes(one.error)))
</script>

<template>
  <div v-if="troubles.length" class="notice trouble" role="group" aria-label="Trouble">
    <p v-for="one in troubles" :key="one.name">
      <span role="alert"
        >Does not work now: {{ one.doing }}. <bdi>{{ one.error }}</bdi> It is tried again by itself.</span
      >
      <button type="button" class="quiet-button" @click="read.push(one.error)">Done</button>
    </p>
  </div>
</template>
