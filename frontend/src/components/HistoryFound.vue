<script setup lang="ts">
import { useHistory } from '../composables/history'
import OwnAddresses from './OwnAddresses.vue'

const props = defineProps<{
  live: boolean
  /** Which addresses are the owner's is asked elsewhere on the page. */
  asked?: boolean
}>()
const HOUR = 60

const { data: found } = useHistory(() => props.live)

function delay(minutes: number): string {
  if (!minutes) return ''
  return minutes < HOUR
    ? `, usually within ${minutes} min`
    : `, usually within ${Math.round(minutes / HOUR)} h`
}
</script>

<template>
  <section v-if="found" class="history" aria-label="What the history tells">
    <h2>What your history tells</h2>
    <OwnAddresses v-if="!asked" />
    <div class="history-people">
      <div>
        <h3>You answer</h3>
        <ul>
          <li v-for="one in found.answered" :key="one.address">
            <bdi>{{ one.address }}</bdi>
            <span class="note">{{ one.answered }} of {{ one.received }}{{ delay(one.minutes) }}</span>
          </li>
          <li v-if="!found.answered.length" class="note">Nobody so far.</li>
        </ul>
      </div>
      <div>
        <h3>You leave unread</h3>
        <ul>
          <li v-for="one in found.unread" :key="one.address">
            <bdi>{{ one.address }}</bdi>
            <span class="note">{{ one.received - one.read }} of {{ one.received }}</span>
          </li>
          <li v-if="!found.unread.length" class="note">Nobody so far.</li>
        </ul>
      </div>
    </div>
    <p v-if="found.lists" class="note">
      {{ found.lists === 1 ? 'One mailing list writes' : `${found.lists} mailing lists write` }} to you.
    </p>
  </section>
</template>
