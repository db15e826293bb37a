<script setup lang="ts">
import { computed, nextTick, toRef, watch } from 'vue'
import { keyFor, useVerbs } from '../composables/actions'
import { useLetters } from '../composables/letters'
import { useOpened } from '../composables/opened'
import { usePlaces } from '../composables/places'
import { look } from '../composables/settings'
import { likelihood, decidedWords, subjectOf } from '../lib/words'
import EvidenceBalance from './EvidenceBalance.vue'
import MessageBody from './MessageBody.vue'
import MessageDetails from './MessageDetails.vue'
import MessageHead from './MessageHead.vue'
import ScoreGauge from './ScoreGauge.vue'
import ThreadView from './ThreadView.vue'

const props = defineProps<{ number: number; whole: boolean }>()
const emit = defineEmits<{ open: [number: number]; close: []; whole: [] }>()

const { bounds, titles } = usePlaces()
const { opened, failed, waiting, pictures, showPictures, alwaysPictures, vouch } = useOpened(
  toRef(props, 'number'),
)
const low = computed(() => [...(opened.value?.low ?? [])].sort((a, b) => b.share - a.share))
const weighed = computed(() => opened.value?.message.decided_by !== 'own')

const { begin } = useLetters()

useVerbs({
  pictures: showPictures,
  reply: () => begin('reply', props.number),
  'reply-all': () => begin('reply_all', props.number),
  forward: () => begin('forward', props.number),
})
watch(
  () => opened.value?.message.id,
  () => void nextTick(() => document.querySelector('.reading')?.scrollTo({ top: 0 })),
)
</script>

<template>
  <article
    class="reading"
    aria-label="Open message"
    :data-number="opened?.message.id"
    :style="{ '--text-size': `${look.textSize}%` }"
  >
    <p v-if="failed" class="reading-error" role="alert">{{ failed.message }}</p>
    <p v-else-if="waiting" class="reading-wait">Opening</p>
    <template v-else-if="opened">
      <header class="reading-head">
        <div class="reading-title">
          <h2 dir="auto" :title="opened.message.subject">{{ subjectOf(opened.message.subject) }}</h2>
          <button type="button" class="quiet-button" @click="emit('whole')">
            {{ whole ? 'Beside the list' : 'Whole page' }}
          </button>
          <button type="button" class="quiet-button" aria-label="Close the message" @click="emit('close')">
            Close
          </button>
        </div>
        <MessageHead :opened="opened" @vouch="vouch" />
        <p class="reading-answer" role="group" aria-label="Answer">
          <button type="button" class="plain-button" @click="begin('reply', number)">
            Reply <kbd v-if="keyFor('reply')">{{ keyFor('reply') }}</kbd>
          </button>
          <button
            v-if="opened.to.length + opened.cc.length > 1"
            type="button"
            class="plain-button"
            @click="begin('reply_all', number)"
          >
            Reply to all <kbd v-if="keyFor('reply-all')">{{ keyFor('reply-all') }}</kbd>
          </button>
          <button type="button" class="plain-button" @click="begin('forward', number)">
            Forward <kbd v-if="keyFor('forward')">{{ keyFor('forward') }}</kbd>
          </button>
        </p>
      </header>
      <template v-if="weighed">
        <div class="reading-score">
          <ScoreGauge
            large
            :score="opened.message.score"
            :low="opened.message.low_edge"
            :high="opened.message.high_edge"
            :bounds="bounds"
          />
        </div>
        <p class="reading-low">
          <span>If it does not matter now: </span>
          <span v-for="(one, index) in low" :key="one.place" class="low-share">
            <template v-if="index">, </template>{{ likelihood(one.share) }}
            {{ titles[one.place] ?? one.place }}
          </span>
          <span v-if="decidedWords(opened.message)" class="reading-decided">
            {{ decidedWords(opened.message) }}</span
          >
        </p>
        <EvidenceBalance :lines="opened.evidence" :log-odds="opened.log_odds" :titles="titles" />
      </template>
      <p v-if="opened.defects.length" class="reading-defects">
        Odd about it: {{ opened.defects.join(', ') }}.
      </p>
      <ThreadView :number="opened.message.id" @open="(other) => emit('open', other)">
        <MessageBody
          class="is-current"
          :number="opened.message.id"
          :opened="opened"
          :pictures="pictures"
          @pictures="showPictures"
          @always-pictures="alwaysPictures"
        />
      </ThreadView>
      <MessageDetails :number="opened.message.id" :opened="opened" />
    </template>
  </article>
</template>
