<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { TopicQuestion } from '../api/client'
import EffectStrip from '../components/EffectStrip.vue'
import TopicAsks from '../components/TopicAsks.vue'
import TopicState from '../components/TopicState.vue'
import { useAttempt } from '../composables/attempt'
import { usePlaces } from '../composables/places'
import { tagLine, useTags } from '../composables/tags'
import { useTeaching } from '../composables/teaching'
import { useTopic, useTopics } from '../composables/topics'

const MOST_SAID = 500
const route = useRoute()
const router = useRouter()
const { all, loading, failed, finding, found, describe, say, turn, rest, find } = useTopics()
const { byId } = useTags()
const { band, titles } = usePlaces()
const teaching = useTeaching()
const { attempt, answer, busy, problem } = useAttempt()

/** The tag that is looked at: of a topic, or one that is about to learn. */
const tag = computed(() => byId.value.get(Number(route.query.tag)))
const fresh = computed(() => route.query.tag === 'new')
const topic = computed(() => all.value.find((one) => one.tag === tag.value?.id))
const number = computed(() => topic.value?.id ?? 0)
const { data: told, error } = useTopic(number)
const name = ref('')
const said = ref('')
const buckets = computed(() => band.value.filter((place) => place.name !== 'undecided'))

watch(
  [all, () => route.query.tag],
  ([topics, wanted]) => {
    const first = topics[0]
    if (!wanted && first) void router.replace({ name: 'topics', query: { tag: first.tag } })
  },
  { immediate: true },
)
watch([() => tag.value?.id, () => topic.value?.said], () => (said.value = topic.value?.said ?? ''), {
  immediate: true,
})
watch(found, (one) => {
  if (one?.topic !== number.value) return
  if (one.step) teaching.tell(`${tag.value?.name ?? 'It'} is on its mail now.`)
  else teaching.show('Nothing had to change.')
})

async function keepSaid(): Promise<void> {
  const kept = await answer(() => describe(said.value, name.value, tag.value?.id ?? 0))
  if (!kept) return
  // The answers are given by key from here on.
  if (document.activeElement instanceof HTMLElement) document.activeElement.blur()
  name.value = ''
  await router.replace({ name: 'topics', query: { tag: kept.tag } })
}

async function reply(asked: TopicQuestion, belongs: boolean): Promise<void> {
  const done = await attempt(() => say(number.value, [asked.message.id], belongs, asked.drawn))
  if (done) teaching.tell(`“${asked.message.subject}” ${belongs ? 'belongs' : 'does not belong'}.`)
}

async function turnIt(enabled: boolean, bucket: string): Promise<void> {
  const one = topic.value
  if (one) await attempt(() => turn(one, enabled, bucket))
}

async function findIt(): Promise<void> {
  const one = topic.value
  if (one) await attempt(() => find(one))
}

async function restIt(): Promise<void> {
  const one = topic.value
  if (!one || !(await attempt(() => rest(one)))) return
  teaching.show(`${tag.value?.name ?? 'It'} learns no more. The tag stays.`)
  await router.replace({ name: 'topics', query: {} })
}

function show(): void {
  if (tag.value) void router.push({ name: 'search', query: { line: tagLine(tag.value.name), order: 'time' } })
}
</script>

<template>
  <div class="subscriptions rules topics">
    <header class="subscriptions-head">
      <h1>Topics</h1>
      <p class="subscriptions-count" role="status">Tags that find their mail, from your words and answers</p>
      <RouterLink class="plain-button" :to="{ name: 'topics', query: { tag: 'new' } }" data-act="new"
        >New topic</RouterLink
      >
    </header>
    <div class="rules-body topics-body">
      <ul class="rules-list" aria-label="Your topics">
        <li v-if="failed" class="list-note" role="alert">{{ failed.message }}</li>
        <li v-else-if="!all.length && !loading" class="list-note">
          No topics yet. Describe a kind of mail, answer a few questions, and it is found from then on.
        </li>
        <li v-for="one in all" :key="one.id">
          <RouterLink
            class="topic-row"
            :class="{ current: one.id === number }"
            :to="{ name: 'topics', query: { tag: one.tag } }"
            :data-topic="byId.get(one.tag)?.name"
          >
            <span class="tag" :data-tone="byId.get(one.tag)?.tone"
              ><bdi>{{ byId.get(one.tag)?.name }}</bdi></span
            >
            <span class="topic-off">{{ one.enabled ? '' : 'not running' }}</span>
            <span class="topic-said">{{ one.said || 'from examples' }}</span>
          </RouterLink>
        </li>
      </ul>
      <div class="rules-side">
        <form v-if="fresh || tag" class="topic-form" @submit.prevent="keepSaid">
          <template v-if="fresh">
            <label for="topic-name">Its tag</label>
            <input id="topic-name" v-model="name" class="form-control" maxlength="60" placeholder="Visas" />
          </template>
          <label for="topic-said">{{ fresh ? 'Which mail do you mean?' : `${tag?.name}: which mail` }}</label>
          <div class="tag-field">
            <textarea
              id="topic-said"
              v-model="said"
              class="form-control"
              rows="2"
              :maxlength="MOST_SAID"
              placeholder="whatever is about visas and permits for the spring tour"
              @keydown.ctrl.enter.prevent="keepSaid"
            />
            <button
              type="submit"
              class="plain-button"
              :disabled="busy || (fresh ? !name.trim() : !!topic && said === topic.said)"
            >
              {{ topic ? 'Search again' : 'Search' }}
            </button>
          </div>
          <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
        </form>
        <p v-if="error" class="list-note" role="alert">{{ error.message }}</p>
        <template v-if="told && topic">
          <p v-if="topic.words.length || topic.beside.length" class="topic-words">
            <template v-if="topic.words.length"
              >Looked for: <b>{{ topic.words.join(', ') }}</b></template
            ><template v-if="topic.beside.length"
              >; beside them in your mail: {{ topic.beside.join(', ') }}</template
            >
          </p>
          <TopicState
            :told="told"
            :buckets="buckets"
            :finding="finding && finding.topic === number ? finding : null"
            :busy="busy"
            @turn="turnIt"
            @find="findIt"
            @rest="restIt"
            @show="show"
          />
          <p v-if="!told.asks.length" class="list-note">
            Nothing is left that is worth an answer. What arrives and is in doubt comes to Your call.
          </p>
          <h2 v-else>
            {{ told.belongs + told.others < 10 ? 'Does this belong?' : 'Still worth an answer' }}
          </h2>
          <TopicAsks :key="number" :asks="told.asks" :busy="busy" @answer="reply" />
        </template>
      </div>
    </div>
    <EffectStrip :titles="titles" />
  </div>
</template>
