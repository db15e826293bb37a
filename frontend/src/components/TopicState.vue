<script setup lang="ts">
import { computed } from 'vue'
import type { Place, TopicTold } from '../api/client'
import { rightWords } from '../lib/topics'

const props = defineProps<{
  told: TopicTold
  buckets: readonly Place[]
  finding: { done: number; of: number } | null
  busy: boolean
}>()
const emit = defineEmits<{ turn: [enabled: boolean, bucket: string]; find: []; rest: []; show: [] }>()

const most = computed(() => Math.max(1, ...props.told.weeks))
const weekWords = computed(() => `Found a week, the last thirteen: ${props.told.weeks.join(', ')}`)
</script>

<template>
  <section class="topic-state" aria-label="How it does">
    <dl>
      <div>
        <dt>Answers</dt>
        <dd>{{ told.belongs }} belong, {{ told.others }} do not</dd>
      </div>
      <div>
        <dt>Last 13 weeks</dt>
        <dd>
          {{ told.members.toLocaleString() }} found<template v-if="told.doubtful"
            >, {{ told.doubtful }} in doubt</template
          >
        </dd>
      </div>
      <div>
        <dt class="visually-hidden">Week by week</dt>
        <dd>
          <span class="topic-weeks" role="img" :aria-label="weekWords" :title="weekWords">
            <i
              v-for="(count, week) in told.weeks"
              :key="week"
              :style="{ height: `${(22 * count) / most}px` }"
            />
          </span>
        </dd>
      </div>
      <div>
        <dt>Right</dt>
        <dd>{{ rightWords(told) }}</dd>
      </div>
    </dl>
    <div class="topic-turn">
      <label>
        <input
          type="checkbox"
          :checked="told.topic.enabled"
          :disabled="busy || (!told.belongs && !told.topic.enabled)"
          @change="emit('turn', !told.topic.enabled, told.topic.bucket)"
        />
        Tag its mail as it arrives
      </label>
      <label>
        and put it
        <select
          class="form-select"
          aria-label="Where its mail is put"
          :value="told.topic.bucket"
          :disabled="busy"
          @change="emit('turn', told.topic.enabled, ($event.target as HTMLSelectElement).value)"
        >
          <option value="">where it would stand anyway</option>
          <option v-for="place in buckets" :key="place.name" :value="place.name">{{ place.title }}</option>
        </select>
      </label>
      <span class="topic-acts">
        <progress v-if="finding" :value="finding.done" :max="finding.of" aria-label="How far the search is" />
        <button
          v-else
          type="button"
          class="plain-button"
          data-act="find"
          :disabled="busy || !told.belongs"
          @click="emit('find')"
        >
          Tag what is here
        </button>
        <button type="button" class="quiet-button" @click="emit('show')">Show its mail</button>
        <button type="button" class="quiet-button" :disabled="busy" @click="emit('rest')">
          Stop learning
        </button>
      </span>
    </div>
  </section>
</template>
