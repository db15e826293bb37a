<script setup lang="ts">
import { computed, ref } from 'vue'
import type { OwedLine } from '../api/client'
import { lateness } from '../lib/follow-days'
import { lastingWords, near } from '../lib/time'
import { senderName, subjectOf } from '../lib/words'

const props = defineProps<{
  title: string
  side: 'they' | 'you'
  lines: readonly OwedLine[]
  now: number
  currentKey: string
}>()
const emit = defineEmits<{ current: [key: string]; open: [key: string] }>()

const FIRST = 12
const whole = ref(false)
const shown = computed(() => (whole.value ? props.lines : props.lines.slice(0, FIRST)))
const key = (one: OwedLine) => `${props.side} ${one.message.id}`
const age = (one: OwedLine) => lastingWords(props.now - one.message.time)
const late = (one: OwedLine) => lateness(one, props.now)

function about(one: OwedLine): string {
  if (one.missed) return `${age(one)}, nobody answered in time`
  if (one.until) return `${age(one)}, reminder ${near(one.until)}`
  return one.usual ? `${age(one)}, usually ${lastingWords(one.usual)}` : age(one)
}
</script>

<template>
  <section class="owed" :aria-label="title">
    <h2>
      {{ title }} <span class="list-count">{{ lines.length || 'nothing' }}</span>
    </h2>
    <ul>
      <li
        v-for="one in shown"
        :key="key(one)"
        class="owed-line"
        :class="{ current: key(one) === currentKey }"
        :aria-current="key(one) === currentKey ? 'true' : undefined"
        :data-follow="key(one)"
        @click="emit('current', key(one))"
        @dblclick="emit('open', key(one))"
      >
        <bdi class="owed-who">{{
          side === 'they' || one.promised ? one.person : senderName(one.message)
        }}</bdi>
        <span class="owed-age">{{ about(one) }}</span>
        <bdi class="owed-said">{{ one.sentence || subjectOf(one.message.subject) }}</bdi>
        <span class="owed-about"
          ><template v-if="one.promised"
            >“{{ subjectOf(one.message.subject) }}”, promised<template v-if="one.proposed">
              for {{ one.proposed }}</template
            ></template
          ><template v-else>{{ subjectOf(one.message.subject) }}</template></span
        >
        <span v-if="side === 'they'" class="owed-bar" aria-hidden="true"
          ><span :style="{ width: `${(100 * late(one)) / 3}%` }" :class="{ late: late(one) > 1 }"
        /></span>
      </li>
    </ul>
    <button v-if="lines.length > FIRST" type="button" class="quiet-button" @click="whole = !whole">
      {{ whole ? 'The first alone' : `All ${lines.length}` }}
    </button>
  </section>
</template>
