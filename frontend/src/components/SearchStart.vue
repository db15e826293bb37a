<script setup lang="ts">
import { useSavedSearches } from '../composables/search'
import { recent } from '../composables/settings'

const emit = defineEmits<{ go: [line: string] }>()

const EXAMPLES = [
  { line: 'from:ilse since:2w mark:unread', about: 'what Ilse wrote in two weeks and you have not read' },
  { line: 'file:pdf larger:1MB', about: 'mail with a PDF that is larger than a megabyte' },
  { line: '(freight or carnet) -bucket:drain', about: 'either word, wherever it stands but in the Drain' },
]
const { saved, remove } = useSavedSearches()
</script>

<template>
  <div class="search-start">
    <section v-if="saved.length" aria-label="Saved searches">
      <h2>Saved</h2>
      <ul class="search-saved">
        <li v-for="one in saved" :key="one.id">
          <button type="button" class="plain-button" @click="emit('go', one.line)">
            <bdi>{{ one.name }}</bdi>
          </button>
          <button
            type="button"
            class="quiet-button"
            :aria-label="`Forget the search ${one.name}`"
            @click="remove(one)"
          >
            Forget
          </button>
        </li>
      </ul>
    </section>
    <section v-if="recent.length" aria-label="Recent searches">
      <h2>
        Recent
        <button type="button" class="quiet-button" @click="recent = []">Forget them</button>
      </h2>
      <ul class="search-lines">
        <li v-for="line in recent" :key="line">
          <button type="button" class="quiet-button" @click="emit('go', line)">
            <bdi>{{ line }}</bdi>
          </button>
        </li>
      </ul>
    </section>
    <section aria-label="Examples">
      <h2>Examples</h2>
      <ul class="search-lines">
        <li v-for="one in EXAMPLES" :key="one.line">
          <button type="button" class="quiet-button" @click="emit('go', one.line)">
            <code>{{ one.line }}</code>
          </button>
          <span class="note">{{ one.about }}</span>
        </li>
      </ul>
      <p class="note">The form writes the same line.</p>
    </section>
  </div>
</template>
