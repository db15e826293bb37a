<script setup lang="ts">
import { useInfiniteQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { client, unwrap, type Step } from '../api/client'
import { usePlaces } from '../composables/places'
import { useTeaching } from '../composables/teaching'
import { useStatus } from '../composables/events'
import { shown as shownScore } from '../lib/gauge'
import { exact, near } from '../lib/time'
import { REACH_WORDS, subjectOf } from '../lib/words'

const queries = useQueryClient()
const { titles } = usePlaces()
const { undo, said } = useTeaching()
const { rebuilding, renewing, rescoring } = useStatus()
const shown = ref<'steps' | 'lessons'>('steps')

const steps = useInfiniteQuery({
  queryKey: ['journal', 'steps'],
  queryFn: ({ pageParam }) => unwrap(client.GET('/api/steps', { params: { query: { before: pageParam } } })),
  initialPageParam: 0,
  getNextPageParam: (page) => page.next || undefined,
})
const lessons = useInfiniteQuery({
  queryKey: ['journal', 'lessons'],
  queryFn: ({ pageParam }) =>
    unwrap(client.GET('/api/lessons', { params: { query: { before: pageParam } } })),
  initialPageParam: 0,
  getNextPageParam: (page) => page.next || undefined,
})
const lines = computed(() => steps.data.value?.pages.flatMap((page) => page.steps) ?? [])
const taught = computed(() => lessons.data.value?.pages.flatMap((page) => page.lessons) ?? [])

async function takeBack(step: Step): Promise<void> {
  await undo(step.id)
  await queries.invalidateQueries({ queryKey: ['journal'] })
}
</script>

<template>
  <div class="page">
    <header class="page-head">
      <h1>Journal</h1>
      <p>
        Everything done to your mail, newest first. What can be taken back has a button for it; undoing a
        lesson leaves the model as if it had never seen it.
      </p>
      <div class="tabs" role="group" aria-label="What to show">
        <button type="button" :aria-pressed="shown === 'steps'" @click="shown = 'steps'">Steps</button>
        <button type="button" :aria-pressed="shown === 'lessons'" @click="shown = 'lessons'">Lessons</button>
      </div>
    </header>
    <p v-if="said" class="page-said">{{ said }}</p>
    <div v-if="rebuilding" class="progress-line" role="status">
      <span>An old lesson is being taken out of the model: {{ rebuilding.done }} of {{ rebuilding.of }}</span>
      <progress :value="rebuilding.done" :max="rebuilding.of" aria-label="Taking a lesson back" />
    </div>
    <div v-else-if="renewing" class="progress-line">
      <span
        >A new version looks at mail in another way, so stored mail is read again: {{ renewing.done }} of
        {{ renewing.of }}</span
      >
      <progress :value="renewing.done" :max="renewing.of" aria-label="Reading stored mail again" />
    </div>
    <div v-else-if="rescoring" class="progress-line">
      <span
        >Scores are being brought to what the model says now: {{ rescoring.done }} of {{ rescoring.of }}</span
      >
      <progress :value="rescoring.done" :max="rescoring.of" aria-label="Scoring standing mail" />
    </div>
    <table v-if="shown === 'steps' && lines.length" class="ledger">
      <thead>
        <tr>
          <th>When</th>
          <th>What</th>
          <th>Step</th>
          <th class="number">Messages</th>
          <th><span class="visually-hidden">Undo</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="step in lines" :key="step.id" :class="{ undone: step.undone_at }">
          <td>
            <time :title="exact(step.at)">{{ near(step.at) }}</time>
          </td>
          <td>{{ step.label }}</td>
          <td>
            <bdi>{{ step.title }}</bdi>
          </td>
          <td class="number">{{ step.messages }}</td>
          <td class="act">
            <span v-if="step.undone_at">undone {{ near(step.undone_at) }}</span>
            <button
              v-else-if="step.undoable"
              type="button"
              class="plain-button"
              :aria-label="`Undo ${step.title}`"
              @click="takeBack(step)"
            >
              Undo
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <table v-else-if="shown === 'lessons' && taught.length" class="ledger">
      <thead>
        <tr>
          <th>When</th>
          <th>Message</th>
          <th>Sender</th>
          <th>Stood in</th>
          <th>Belongs in</th>
          <th>Reach</th>
          <th>Score</th>
          <th class="number">Similar</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="lesson in taught" :key="lesson.id" :class="{ undone: lesson.undone }">
          <td>
            <time :title="exact(lesson.at)">{{ near(lesson.at) }}</time>
          </td>
          <td>
            <bdi>{{ subjectOf(lesson.subject) }}</bdi>
          </td>
          <td>
            <bdi>{{ lesson.sender }}</bdi>
          </td>
          <td>{{ titles[lesson.stood] ?? lesson.stood }}</td>
          <td>{{ titles[lesson.belongs] ?? lesson.belongs }}</td>
          <td>{{ lesson.undone ? 'undone' : REACH_WORDS[lesson.reach] }}</td>
          <td class="scores">{{ shownScore(lesson.before) }} → {{ shownScore(lesson.after) }}</td>
          <td class="number">{{ lesson.kin }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="(shown === 'steps' ? steps : lessons).data.value" class="page-empty">
      Nothing yet. When you put a message where it belongs, it is written down here.
    </p>
    <button
      v-if="shown === 'steps' && steps.hasNextPage.value"
      type="button"
      class="plain-button"
      @click="steps.fetchNextPage()"
    >
      Older steps
    </button>
    <button
      v-if="shown === 'lessons' && lessons.hasNextPage.value"
      type="button"
      class="plain-button"
      @click="lessons.fetchNextPage()"
    >
      Older lessons
    </button>
  </div>
</template>
