<script setup lang="ts">
import { computed } from 'vue'
import BeginHere from './BeginHere.vue'
import { keyFor } from '../composables/actions'
import { useLately } from '../composables/lately'
import { usePlaces } from '../composables/places'
import { latelyWords } from '../lib/lately'
import { exact, near } from '../lib/time'

const props = defineProps<{ plain: boolean }>()

const { titles, isNew } = usePlaces()
const { lately, since } = useLately()
const told = computed(() => (lately.value && !props.plain ? latelyWords(lately.value, titles.value) : []))
</script>

<template>
  <div class="side-empty">
    <BeginHere v-if="isNew" />
    <section v-else-if="told.length" class="lately" aria-label="Since you were last here">
      <h2>
        Since you were last here, <time :title="exact(since)">{{ near(since) }}</time>
      </h2>
      <ul>
        <li v-for="line in told" :key="line">{{ line }}</li>
      </ul>
      <p><RouterLink to="/journal">All that was done stands in the journal</RouterLink></p>
    </section>
    <p v-else>Choose a message to read it and to see why it stands where it stands.</p>
    <p v-if="keyFor('help') && !isNew" class="note">
      <kbd>{{ keyFor('next') }}</kbd> <kbd>{{ keyFor('previous') }}</kbd> move,
      <kbd>{{ keyFor('open') }}</kbd> opens, <kbd>{{ keyFor('help') }}</kbd> lists the keys.
    </p>
  </div>
</template>
