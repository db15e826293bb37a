<script setup lang="ts">
import { computed } from 'vue'
import type { Figures } from '../api/client'

const props = defineProps<{ figures: Figures; titles: Record<string, string> }>()

const percent = (share: number) => `${(100 * share).toFixed(1)} %`
const rows = computed(() => {
  const f = props.figures
  const of = (one: { part: number; whole: number }) => `${one.part} of ${one.whole}`
  return [
    ['Important mail put away', percent(f.buried.share), of(f.buried)],
    ['Unimportant mail on the Desk', percent(f.noise.share), of(f.noise)],
    ['Asked about', percent(f.asked.share), of(f.asked)],
    ['You would have corrected or answered', percent(f.corrections.share), of(f.corrections)],
    ['In the wrong low bucket', String(f.wrong_low), ''],
    ['Good mail in the Drain', String(f.drained_good), ''],
    [
      'Mean cost of a message × 100',
      f.regret.toFixed(1),
      `in the first quarter ${f.early_regret.toFixed(1)}`,
    ],
  ]
})
const top = computed(() => Math.max(1, ...props.figures.curve))
</script>

<template>
  <section class="figures" aria-label="What the trial found">
    <h2>
      After the first quarter of {{ figures.messages }} messages, taught by {{ figures.lessons }} lessons
    </h2>
    <div class="figures-sides">
      <table class="ledger figures-table">
        <tbody>
          <tr v-for="[name, value, counts] in rows" :key="name">
            <th scope="row">{{ name }}</th>
            <td class="number">{{ value }}</td>
            <td>{{ counts }}</td>
          </tr>
        </tbody>
      </table>
      <div>
        <h3>Cost along the way</h3>
        <ol class="cost-curve" aria-label="Cost in twenty stretches, first to last">
          <li v-for="(value, at) in figures.curve" :key="at" :title="value.toFixed(1)">
            <span :style="{ height: `${(100 * value) / top}%` }" /><span class="visually-hidden">{{
              value.toFixed(1)
            }}</span>
          </li>
        </ol>
        <h3>Does a score mean what it says</h3>
        <table class="ledger figures-bins">
          <thead>
            <tr>
              <th class="number">Messages</th>
              <th class="number">Score</th>
              <th class="number">Were important</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(bin, at) in figures.reliability" :key="at">
              <td class="number">{{ bin.count }}</td>
              <td class="number">{{ percent(bin.score) }}</td>
              <td class="number">{{ percent(bin.important) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </div>
    <h3>Of what belongs in each bucket, found there</h3>
    <ul class="figures-recall">
      <li v-for="(share, name) in figures.recall" :key="name">
        {{ titles[name] ?? name }} <strong>{{ percent(share.share) }}</strong> ({{ share.part }} of
        {{ share.whole }})
      </li>
    </ul>
  </section>
</template>
