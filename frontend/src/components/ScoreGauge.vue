<script setup lang="ts">
import { computed } from 'vue'
import type { Bounds } from '../api/client'
import { doubt, percent, position, shown, sideWords } from '../lib/gauge'

const props = defineProps<{
  score: number
  low: number
  high: number
  bounds: Bounds
  large?: boolean
  /** Whether the number stands beside it. */
  numbered?: boolean
}>()

const needle = computed(() => percent(position(props.score)))
const left = computed(() => percent(position(props.low)))
const width = computed(() => percent(position(props.high) - position(props.low)))
const ticks = computed(() => [percent(position(props.bounds.ask)), percent(position(props.bounds.desk))])
const AXIS = [0.01, 0.05, 0.1, 0.2, 0.5, 0.8, 0.9, 0.99]
const words = computed(
  () =>
    `Importance ${shown(props.score)} of 100, ${sideWords(props.score, props.low, props.high, props.bounds)}`,
)
</script>

<template>
  <span class="gauge" :class="{ large }" role="img" :aria-label="words" :title="words">
    <span class="gauge-track" />
    <span class="gauge-band" :style="{ left, width }" />
    <span v-for="tick in ticks" :key="tick" class="gauge-tick" :style="{ left: tick }" />
    <span class="gauge-needle" :style="{ left: needle }" />
    <template v-if="large">
      <span v-for="mark in AXIS" :key="mark" class="gauge-mark" :style="{ left: percent(position(mark)) }">
        {{ shown(mark) }}
      </span>
      <span class="gauge-bound" :style="{ left: ticks[0] }">ask</span>
      <span class="gauge-bound" :style="{ left: ticks[1] }">Desk</span>
    </template>
  </span>
  <span v-if="numbered" class="gauge-number">
    <strong>{{ shown(score) }}</strong>
    <span>±{{ doubt(low, high) }}, {{ sideWords(score, low, high, bounds) }}</span>
  </span>
</template>
