<script setup lang="ts">
import { computed } from 'vue'
import type { Doing, RuleGiven, RulePreview } from '../api/client'
import { usePlaces } from '../composables/places'
import { previewWords } from '../lib/rules'
import { exact, near } from '../lib/time'
import { nameOf, subjectOf } from '../lib/words'

const props = defineProps<{
  told: RulePreview | undefined
  rule: RuleGiven
  doings: readonly Doing[]
}>()

const { titles } = usePlaces()
const place = computed(() => {
  const placing = props.doings.filter((one) => one.places).map((one) => one.verb)
  const one = props.rule.actions.find(({ verb }) => placing.includes(verb))
  return one ? one.target || one.verb : ''
})
const said = computed(() => (props.told ? previewWords(props.told, place.value) : []))
const lists = computed(() => {
  const told = props.told
  if (!told) return []
  const plain = (rows: typeof told.newest) => rows.map((message) => ({ message, at: 0 }))
  return [
    { title: 'Next to go', rows: told.following },
    { title: `You answered ${told.answered} of them`, rows: plain(told.answers) },
    { title: 'The model would put these elsewhere', rows: plain(told.marginal) },
    { title: 'The newest', rows: plain(told.newest) },
  ].filter((one) => one.rows.length)
})
</script>

<template>
  <section class="rule-preview" aria-label="What it would take">
    <p role="status" class="rule-said">
      {{ said.join(' ') || 'Write which mail, and what it would take stands here.' }}
    </p>
    <template v-for="list in lists" :key="list.title">
      <h2>{{ list.title }}</h2>
      <ul class="rule-mail">
        <li v-for="{ message, at } in list.rows" :key="message.id">
          <time :title="exact(at || message.time)">{{ at ? `goes ${near(at)}` : near(message.time) }}</time>
          <bdi class="rule-sender">{{ nameOf(message, 'name') }}</bdi>
          <RouterLink
            :to="{
              name: 'search',
              params: { message: message.id },
              query: { line: rule.line, order: 'time' },
            }"
            ><bdi>{{ subjectOf(message.subject) }}</bdi></RouterLink
          >
          <span class="rule-place">{{ titles[message.place] ?? message.place }}</span>
        </li>
      </ul>
    </template>
  </section>
</template>
