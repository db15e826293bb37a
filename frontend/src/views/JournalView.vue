<script setup lang="ts">
import { useInfiniteQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { client, unwrap } from '../api/client'
import { usePlaces } from '../composables/places'
import { useTeaching } from '../composables/teaching'
import { useStatus } from '../composables/events'
import { shown as shownScore } from '../lib/gauge'
import { exact, near } from '../lib/time'
import { REACH_WORDS, subjectOf } from '../lib/words'

const queries = useQueryClient()
const { titles, places } = usePlaces()
const buckets = computed(() => places.value.filter((one) => one.takes || one.instead))
const { undo, said } = useTeaching()
const { rebuilding, renewing, rescoring } = useStatus()
const route = useRoute()
/** One lesson alone, where a line of evidence led here. */
const lesson = computed(() => Number(route.query.lesson) || 0)
const shown = ref<'steps' | 'lessons'>(lesson.value ? 'lessons' : 'steps')
const word = ref('')
const text = refDebounced(word, 250)
const belongs = ref('')
const standing = ref(false)
watch(lesson, (one) => one && (shown.value = 'lessons'))

const steps = useInfiniteQuery({
  queryKey: ['journal', 'steps'],
  queryFn: ({ pageParam }) => unwrap(client.GET('/api/steps', { params: { query: { before: pageParam } } })),
  initialPageParam: 0,
  getNextPageParam: (page) => page.next || undefined,
})
const lessons = useInfiniteQuery({
  queryKey: computed(
    () => ['journal', 'lessons', text.value, belongs.value, standing.value, lesson.value] as const,
  ),
  queryFn: ({ pageParam }) =>
    unwrap(
      client.GET('/api/lessons', {
        params: {
          query: {
            before: pageParam,
            text: text.value,
            belongs: belongs.value,
            standing: standing.value,
            lesson: lesson.value,
          },
        },
      }),
    ),
  initialPageParam: 0,
  getNextPageParam: (page) => page.next || undefined,
})
const lines = computed(() => steps.data.value?.pages.flatMap((page) => page.steps) ?? [])
const taught = computed(() => lessons.data.value?.pages.flatMap((page) => page.lessons) ?? [])

async function takeBack(step: number): Promise<void> {
  await undo(step)
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
    <div v-if="shown === 'lessons'" class="ledger-asked" role="search">
      <template v-if="lesson">
        <p>One lesson alone. <RouterLink :to="{ name: 'journal' }">All lessons</RouterLink></p>
      </template>
      <template v-else>
        <input
          v-model="word"
          type="search"
          class="form-control"
          aria-label="Search lessons"
          placeholder="Sender or subject"
        />
        <select v-model="belongs" class="form-select" aria-label="Belongs in">
          <option value="">any bucket</option>
          <option v-for="one in buckets" :key="one.name" :value="one.name">{{ one.title }}</option>
        </select>
        <label><input v-model="standing" type="checkbox" class="form-check-input" /> not undone</label>
      </template>
    </div>
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
              @click="takeBack(step.id)"
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
          <th><span class="visually-hidden">Undo</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="given in taught" :key="given.id" :class="{ undone: given.undone }" :data-lesson="given.id">
          <td>
            <time :title="exact(given.at)">{{ near(given.at) }}</time>
          </td>
          <td>
            <RouterLink :to="{ name: 'mail', params: { place: given.belongs, message: given.message } }"
              ><bdi>{{ subjectOf(given.subject) }}</bdi></RouterLink
            >
          </td>
          <td>
            <bdi>{{ given.sender }}</bdi>
          </td>
          <td>{{ titles[given.stood] ?? given.stood }}</td>
          <td>{{ titles[given.belongs] ?? given.belongs }}</td>
          <td>{{ given.undone ? 'undone' : REACH_WORDS[given.reach] }}</td>
          <td class="scores">{{ shownScore(given.before) }} → {{ shownScore(given.after) }}</td>
          <td class="number">{{ given.kin }}</td>
          <td class="act">
            <button
              v-if="!given.undone"
              type="button"
              class="plain-button"
              :aria-label="`Undo the lesson about ${subjectOf(given.subject)}`"
              :title="
                given.together > 1 ? `Its step gave ${given.together} lessons; all of them are undone` : undefined
              "
              @click="takeBack(given.step)"
            >
              {{ given.together > 1 ? `Undo all ${given.together}` : 'Undo' }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="(shown === 'steps' ? steps : lessons).data.value" class="page-empty">
      {{
        shown === 'lessons' && (text || belongs || standing || lesson)
          ? 'No lesson is like that.'
          : 'Nothing yet. When you put a message where it belongs, it is written down here.'
      }}
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
