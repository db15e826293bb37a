<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Message, Place, Reach } from '../api/client'
import { kinWords, useTeaching } from '../composables/teaching'
import { shown } from '../lib/gauge'
import { contraryWords, REACH_WORDS, senderName, subjectOf } from '../lib/words'

const props = defineProps<{
  chosen: readonly Message[]
  takers: readonly Place[]
  titles: Record<string, string>
  reaches: readonly Reach[]
}>()
const emit = defineEmits<{ put: [place: string] }>()

const { reach, effect, working, follow, undo, dismiss } = useTeaching()
const listed = ref(false)
const standing = computed(() => (props.chosen.length === 1 ? props.chosen[0]?.place : ''))
const moved = computed(() => {
  const one = effect.value?.outcome.effects[0]
  return one && effect.value?.outcome.effects.length === 1 ? `${shown(one.before)} → ${shown(one.after)}` : ''
})
</script>

<template>
  <footer class="verdict">
    <div v-if="effect" class="effect" role="group" aria-label="Effect of the verdict">
      <p class="effect-text">
        <bdi>{{ effect.title }}</bdi> is in {{ titles[effect.belongs] ?? effect.belongs }}.
        <span v-if="moved" class="effect-score">Score {{ moved }}.</span>
        <span v-if="effect.outcome.contrary.length" class="effect-contrary">{{
          contraryWords(effect.outcome.contrary, titles)
        }}</span>
        <span v-if="!effect.pulled" class="effect-kin-count">{{ kinWords(effect.outcome) }}</span>
        <span v-else class="effect-kin-count">Its kin followed.</span>
      </p>
      <span class="effect-buttons">
        <template v-if="effect.outcome.kin.length && !effect.pulled">
          <button type="button" class="plain-button" :aria-expanded="listed" @click="listed = !listed">
            {{ listed ? 'Hide kin' : 'Show kin' }}
          </button>
          <button type="button" class="plain-button" data-act="follow" @click="follow(effect.outcome.kin)">
            Let them follow <kbd>y</kbd>
          </button>
        </template>
        <button type="button" class="plain-button" data-act="undo" @click="undo()">Undo <kbd>u</kbd></button>
        <button type="button" class="quiet-button" aria-label="Dismiss the effect" @click="dismiss">
          Done
        </button>
      </span>
      <ul v-if="listed && !effect.pulled" class="effect-kin">
        <li v-for="kin in effect.outcome.kin.slice(0, 30)" :key="kin.message.id">
          <bdi>{{ senderName(kin.message) }}</bdi>
          <bdi class="kin-subject">{{ subjectOf(kin.message.subject) }}</bdi>
          <span>{{ titles[kin.message.place] }} → {{ titles[kin.target] ?? kin.target }}</span>
          <button type="button" class="quiet-button" @click="follow([kin])">Only this one</button>
        </li>
      </ul>
    </div>
    <div class="verdict-row" role="group" aria-label="Verdict">
      <span class="verdict-label">{{ chosen.length > 1 ? `${chosen.length} belong in` : 'Belongs in' }}</span>
      <button
        v-for="place in takers"
        :key="place.name"
        type="button"
        class="verdict-button"
        :class="{ stands: place.name === standing }"
        :disabled="chosen.length === 0"
        :data-put="place.name"
        @click="emit('put', place.name)"
      >
        <kbd>{{ place.key }}</kbd>{{ place.title }}
      </button>
      <label class="verdict-reach">
        <span class="visually-hidden">How far the lesson reaches</span>
        <select v-model="reach" :disabled="chosen.length === 0" title="How far the lesson reaches (e)">
          <option v-for="one in reaches" :key="one" :value="one">{{ REACH_WORDS[one] }}</option>
        </select>
      </label>
      <span v-if="working" class="verdict-work">working</span>
    </div>
  </footer>
</template>
