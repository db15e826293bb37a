<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Evidence } from '../api/client'
import { tellingFirst } from '../lib/evidence'
import { evidenceWords, signed } from '../lib/words'

const props = defineProps<{ lines: readonly Evidence[]; logOdds: number; titles: Record<string, string> }>()

const SHOWN = 3
const whole = ref(false)
const ordered = computed(() => tellingFirst(props.lines))
const shownLines = computed(() => (whole.value ? ordered.value : ordered.value.slice(0, SHOWN)))
const rest = computed(() => ordered.value.slice(SHOWN))
const restSum = computed(() => rest.value.reduce((sum, line) => sum + line.value, 0))
const widest = computed(() => Math.max(1, ...props.lines.map((line) => Math.abs(line.value))))
const bar = (line: Evidence) => {
  const share = (50 * Math.abs(line.value)) / widest.value
  return { width: `${share}%`, left: line.value < 0 ? `${50 - share}%` : '50%' }
}
</script>

<template>
  <section class="evidence" aria-label="Evidence">
    <div class="evidence-head">
      <h3>What raised the score, and what lowered it</h3>
      <span class="evidence-sum" title="The lines add up to the log-odds of the importance">
        sum {{ signed(logOdds) }}
      </span>
    </div>
    <ul>
      <li v-for="(line, number) in shownLines" :key="number" :data-kind="line.kind">
        <span class="evidence-bar" aria-hidden="true">
          <span :class="line.value < 0 ? 'against' : 'for'" :style="bar(line)" />
        </span>
        <span class="evidence-text"
          ><span v-if="line.group && line.group !== line.text" class="evidence-group">{{ line.group }}: </span
          ><RouterLink
            v-if="line.search"
            :to="{ name: 'search', query: { line: line.search } }"
            title="Find this mail"
            ><bdi>{{ evidenceWords(line, titles) }}</bdi></RouterLink
          ><RouterLink
            v-else-if="line.lesson"
            :to="{ name: 'journal', query: { lesson: line.lesson.id } }"
            title="The lesson, with the way to undo it"
            ><bdi>{{ evidenceWords(line, titles) }}</bdi></RouterLink
          ><bdi v-else>{{ evidenceWords(line, titles) }}</bdi></span
        >
        <span class="evidence-value">{{ signed(line.value) }}</span>
      </li>
    </ul>
    <button
      v-if="rest.length"
      type="button"
      class="quiet-button evidence-more"
      :aria-expanded="whole"
      @click="whole = !whole"
    >
      {{ whole ? 'Fewer lines' : `${rest.length} more, together ${signed(restSum)}` }}
    </button>
  </section>
</template>
