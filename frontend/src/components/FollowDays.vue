<script setup lang="ts">
import type { FollowDay } from '../lib/follow-days'
import { clockOf, exact, near } from '../lib/time'
import { senderName, subjectOf } from '../lib/words'

defineProps<{ days: readonly FollowDay[]; currentKey: string }>()
const emit = defineEmits<{ current: [key: string]; open: [key: string] }>()

const DOES = { due: 'due', parked: 'returns', awaited: 'reminder if no answer' } as const
</script>

<template>
  <section class="follow-days" aria-label="By day">
    <section v-for="day in days" :key="day.title" :aria-label="day.title" :class="{ over: day.over }">
      <h2>{{ day.title }}</h2>
      <ul>
        <li
          v-for="one in day.lines"
          :key="one.key"
          class="follow-line"
          :class="[one.kind, { current: one.key === currentKey }]"
          :aria-current="one.key === currentKey ? 'true' : undefined"
          :data-follow="one.key"
          @click="emit('current', one.key)"
          @dblclick="emit('open', one.key)"
        >
          <span class="follow-time" :title="one.at ? exact(one.at) : ''">{{
            one.at && !one.day && !day.over ? clockOf(one.at) : day.over ? near(one.at) : ''
          }}</span>
          <span class="follow-does"
            >{{ DOES[one.kind] }}<template v-if="one.answer && one.at">, or on an answer</template></span
          >
          <bdi class="row-subject">{{ subjectOf(one.message.subject) }}</bdi>
          <bdi class="follow-who">{{ senderName(one.message) }}</bdi>
        </li>
      </ul>
    </section>
    <p v-if="!days.length" class="list-note">
      Nothing is due, and nothing is parked. Give a message a day, or park it until one, and it stands here.
    </p>
  </section>
</template>
