<script setup lang="ts">
import { toRef } from 'vue'
import { useInstead } from '../composables/search'

/** What a search that found nothing might have been: other spellings, a word fewer, each with how much it finds. */
const props = defineProps<{ line: string }>()
const emit = defineEmits<{ go: [line: string] }>()
const instead = useInstead(toRef(props, 'line'))
</script>

<template>
  <div class="search-start">
    <p v-if="!instead.length">Nothing found. Remove a word, or look at what was understood above.</p>
    <section v-else aria-label="Searches that find something">
      <p>Nothing found. These find something:</p>
      <ul class="search-lines">
        <li v-for="one in instead" :key="one.line">
          <button type="button" class="quiet-button" @click="emit('go', one.line)">
            <bdi>{{ one.line }}</bdi>
          </button>
          <span class="note"
            >{{ one.beyond ? 'more than ' : '' }}{{ one.total.toLocaleString() }}
            {{ one.total === 1 ? 'message' : 'messages' }}</span
          >
        </li>
      </ul>
    </section>
  </div>
</template>
