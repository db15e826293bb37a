<script setup lang="ts">
import { useNow } from '@vueuse/core'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useDrafts } from '../composables/drafts'
import { hasStrip, useTeaching } from '../composables/teaching'

const SECOND = 1_000
const SOON = 15

const route = useRoute()
const { drafts, takeBack } = useDrafts()
const { effect, dismiss } = useTeaching()
const now = useNow({ interval: SECOND })
const seconds = computed(() => now.value.getTime() / SECOND)
const open = computed(() => Number(route.params.draft || 0))
const going = computed(() =>
  drafts.value.filter(
    (one) =>
      one.id !== open.value && one.state === 'waiting' && !one.tries && one.due_at - seconds.value < SOON,
  ),
)
const stuck = computed(() =>
  drafts.value.filter(
    (one) =>
      one.id !== open.value &&
      (one.state === 'unsure' || (one.error && ['waiting', 'draft'].includes(one.state))),
  ),
)
// Where a strip on the page tells of it, it does not stand here too.
const refused = computed(() => (!hasStrip.value && effect.value?.only ? effect.value.text : ''))
</script>

<template>
  <div v-if="going.length || stuck.length || refused" class="notice" role="group" aria-label="Notices">
    <p v-if="refused">
      <span role="alert">{{ refused }}</span>
      <button type="button" class="quiet-button" @click="dismiss">Done</button>
    </p>
    <p v-for="one in going" :key="one.id">
      <span
        ><span role="status"
          >“<bdi>{{ one.subject || '(no subject)' }}</bdi
          >” waits to go.</span
        ><span aria-hidden="true"> {{ Math.max(0, Math.round(one.due_at - seconds)) }} s</span></span
      >
      <button type="button" class="plain-button" @click="takeBack(one.id)">Take it back</button>
    </p>
    <p v-for="one in stuck" :key="one.id">
      <span role="alert"
        >“<bdi>{{ one.subject || '(no subject)' }}</bdi
        >” {{ one.state === 'unsure' ? 'may have gone or not.' : 'did not go.' }}</span
      >
      <RouterLink :to="`/outgoing/${one.id}`" class="plain-button">See why</RouterLink>
    </p>
  </div>
</template>
