<script setup lang="ts">
import { computed } from 'vue'
import type { Opened } from '../api/client'
import { run } from '../composables/actions'
import { usePlaces } from '../composables/places'
import { appearance } from '../composables/settings'
import { useTags } from '../composables/tags'
import { strongest } from '../lib/evidence'
import { scoreWords } from '../lib/explain'
import { evidenceWords, likelihood } from '../lib/words'
import EvidenceBalance from './EvidenceBalance.vue'
import KeyCap from './KeyCap.vue'
import ScoreGauge from './ScoreGauge.vue'
import WhatIsThis from './WhatIsThis.vue'

const props = defineProps<{ opened: Opened }>()

const { bounds, titles } = usePlaces()
const { byId } = useTags()
const low = computed(() => [...props.opened.low].sort((a, b) => b.share - a.share))
const reason = computed(() => {
  const rule = props.opened.ruled.find((one) => one.put)
  if (rule && props.opened.message.decided_by === 'rule') return `Your rule “${rule.name}” put it here.`
  const topic = byId.value.get(props.opened.topics[0] ?? 0)
  if (topic && props.opened.message.topic) return `Does it belong to “${topic.name}”? It is doubtful.`
  if (topic && props.opened.message.decided_by === 'topic') return `The topic “${topic.name}” put it here.`
  if (props.opened.decided) return props.opened.decided
  const line = strongest(props.opened.evidence)
  return line ? evidenceWords(line, titles.value) : ''
})
</script>

<template>
  <section class="score-row" aria-label="Score">
    <div class="score-line">
      <ScoreGauge
        :large="appearance.evidence"
        numbered
        :score="opened.message.score"
        :low="opened.message.low_edge"
        :high="opened.message.high_edge"
        :bounds="bounds"
      />
      <WhatIsThis of="Score" :text="scoreWords(opened.message, bounds)" />
      <bdi class="score-reason" :title="reason">{{ reason }}</bdi>
      <button
        type="button"
        class="quiet-button"
        data-act="evidence"
        :aria-expanded="appearance.evidence"
        @click="run('evidence')"
      >
        {{ appearance.evidence ? 'Less' : 'Why' }}
        <KeyCap of="evidence" />
      </button>
    </div>
    <template v-if="appearance.evidence">
      <p class="reading-low">
        <span>If it does not matter now: </span>
        <span v-for="(one, index) in low" :key="one.place" class="low-share">
          <template v-if="index">, </template>{{ likelihood(one.share) }} {{ titles[one.place] ?? one.place }}
        </span>
      </p>
      <EvidenceBalance :lines="opened.evidence" :log-odds="opened.log_odds" :titles="titles" />
    </template>
  </section>
</template>
