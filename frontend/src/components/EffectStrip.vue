<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { tellsEffect, useTeaching } from '../composables/teaching'
import { shown } from '../lib/gauge'
import { contraryWords, evidenceWords, promiseWords, senderName, signed, subjectOf } from '../lib/words'
import KeyCap from './KeyCap.vue'

const props = defineProps<{ titles: Record<string, string> }>()

const { effect, follow, undo, dismiss } = useTeaching()
const outcome = computed(() => effect.value?.outcome)
const more = ref(false)
tellsEffect()
watch(effect, () => (more.value = false))
const contrary = computed(() => contraryWords(outcome.value?.contrary ?? [], props.titles))
const promise = computed(() => promiseWords(outcome.value?.promise ?? null, props.titles))
const moved = computed(() => {
  const one = outcome.value?.effects[0]
  return one && outcome.value?.effects.length === 1 ? `${shown(one.before)} → ${shown(one.after)}` : ''
})
</script>

<template>
  <div v-if="effect" class="effect" role="group" aria-label="Effect of the step">
    <p class="effect-text" :class="{ asks: effect.meant }">
      <bdi>{{ effect.text }}</bdi>
      <span v-if="moved" class="effect-score"> Score {{ moved }}.</span>
      <span v-if="effect.pulled" class="effect-kin-count"> Similar mail moved too.</span>
      <bdi v-if="promise" class="effect-promise">{{ promise }}</bdi>
    </p>
    <span v-if="effect.meant" class="effect-buttons">
      <button type="button" class="strong-button" data-act="meant" @click="effect.meant()">
        {{ effect.yes }}
      </button>
      <button type="button" class="quiet-button" @click="dismiss">Cancel</button>
    </span>
    <span v-else class="effect-buttons">
      <RouterLink
        v-if="outcome?.rule"
        :to="{ name: 'rules', query: { rule: outcome.rule } }"
        title="A rule of yours had put it elsewhere; the verdict holds for this message"
        >Mend the rule</RouterLink
      >
      <button
        v-if="effect.stop"
        type="button"
        class="strong-button"
        data-act="stop-refusing"
        title="Mail from this sender or list is judged again like any other"
        @click="effect.stop()"
      >
        Stop refusing
      </button>
      <button
        v-if="effect.always"
        type="button"
        class="plain-button"
        data-act="always"
        title="All mail of this sender or list goes there from now on"
        @click="effect.always()"
      >
        Always
      </button>
      <button
        v-if="outcome && (outcome.changed.length || outcome.kin.length || contrary)"
        type="button"
        class="quiet-button"
        data-act="more"
        :aria-expanded="more"
        @click="more = !more"
      >
        {{ more ? 'Less' : contrary ? 'Earlier otherwise' : 'More' }}
      </button>
      <button
        v-if="outcome?.kin.length && !effect.pulled"
        type="button"
        class="plain-button"
        data-act="follow"
        @click="follow(outcome.kin)"
      >
        Move {{ outcome.kin_total }} similar too <KeyCap of="follow" />
      </button>
      <button v-if="!effect.only" type="button" class="plain-button" data-act="undo" @click="undo()">
        Undo <KeyCap of="undo" />
      </button>
      <button type="button" class="quiet-button" aria-label="Dismiss the effect" @click="dismiss">
        Done
      </button>
    </span>
    <p v-if="more && contrary" class="effect-contrary">{{ contrary }}</p>
    <ul v-if="more && outcome?.changed.length" class="effect-changes" aria-label="Evidence that changed">
      <li v-for="(change, index) in outcome.changed" :key="index">
        <span>{{ evidenceWords(change.line, titles) }}</span>
        <span class="effect-numbers">{{ signed(change.before) }} → {{ signed(change.line.value) }}</span>
      </li>
    </ul>
    <ul v-if="more && outcome?.kin.length && !effect.pulled" class="effect-kin" aria-label="Similar mail">
      <li v-for="kin in outcome.kin.slice(0, 30)" :key="kin.message.id">
        <bdi>{{ senderName(kin.message) }}</bdi>
        <bdi class="kin-subject">{{ subjectOf(kin.message.subject) }}</bdi>
        <span>{{ titles[kin.message.place] }} → {{ titles[kin.target] ?? kin.target }}</span>
        <button type="button" class="quiet-button" @click="follow([kin])">Only this one</button>
      </li>
    </ul>
  </div>
</template>
