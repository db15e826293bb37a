<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Rule, RuleGiven } from '../api/client'
import EffectStrip from '../components/EffectStrip.vue'
import RuleScript from '../components/RuleScript.vue'
import RuleForm from '../components/RuleForm.vue'
import { useVerbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { useKeyed } from '../composables/keyed'
import { usePhrases } from '../composables/phrases'
import { usePlaces } from '../composables/places'
import { useRules } from '../composables/rules'
import { useTags } from '../composables/tags'
import { useTeaching } from '../composables/teaching'
import { conflictWords, doingWords, emptyRule, givenOf, unchanged, whenWords } from '../lib/rules'
import { exact, near } from '../lib/time'

const queries = useQueryClient()
const route = useRoute()
const router = useRouter()
const { all, doings, conflicts, loading, failed, running, ended, keep, enable, remove, moveTo, run } =
  useRules()
const { titles } = usePlaces()
const { all: tags } = useTags()
const { all: phrases } = usePhrases()
const teaching = useTeaching()
const { attempt, answer, busy, problem } = useAttempt()

const rows = computed(() => all.value.map((one) => ({ ...one, key: String(one.id) })))
const { currentKey, at, current, verbs } = useKeyed(rows)
const fresh = computed(() => route.query.rule === 'new')
const kept = computed<Rule | undefined>(() => (fresh.value ? undefined : current.value))
const written = ref<RuleGiven>(emptyRule())
const before = computed(() =>
  kept.value
    ? givenOf(kept.value)
    : emptyRule(String(route.query.name ?? ''), String(route.query.line ?? '')),
)
const changed = computed(() => !kept.value || !unchanged(written.value, before.value))
const names = computed(() => ({
  ...Object.fromEntries(Object.entries(titles.value).map(([name, title]) => [`bucket:${name}`, title])),
  ...Object.fromEntries(Object.entries(titles.value).map(([name, title]) => [`folder:${name}`, title])),
  ...Object.fromEntries(
    tags.value.flatMap((one) => [
      [`tag:${one.id}`, one.name],
      [`untag:${one.id}`, one.name],
    ]),
  ),
  ...Object.fromEntries(phrases.value.map((one) => [`draft:${one.id}`, one.short])),
}))
const named = (id: number) => all.value.find((one) => one.id === id)?.name ?? 'another rule'
const against = computed(() => conflicts.value.filter((one) => one.rule === kept.value?.id))
const dragged = ref<Rule | null>(null)
const over = ref(-1)
const script = ref(false)

watch(
  () => route.query.rule,
  (wanted) => {
    if (wanted && wanted !== 'new') currentKey.value = String(wanted)
  },
  { immediate: true },
)
watch(
  [() => kept.value?.id, () => route.query, () => Boolean(kept.value)],
  () => (written.value = before.value),
  {
    immediate: true,
  },
)

watch(ended, (one) => {
  if (one?.step) teaching.tell(`${named(one.rule)} has run.`)
  else if (one) teaching.show('Nothing had to change.')
})

async function open(row: Rule): Promise<void> {
  currentKey.value = String(row.id)
  await router.replace({ name: 'rules', query: { rule: row.id } })
}

/** Lets a rule run or rest; one that sends copies is opened first, so that they are confirmed. */
async function turn(row: Rule): Promise<void> {
  if (row.enabled || !row.actions.some((one) => one.verb === 'forward')) {
    await attempt(() => enable(row, !row.enabled))
    return
  }
  script.value = false
  await open(row)
  await nextTick() // what is written is what is kept, once the page has gone there
  written.value = { ...givenOf(row), enabled: true }
}

async function keepIt(): Promise<void> {
  const one = await answer(() => keep(kept.value?.id ?? 0, written.value))
  if (!one) return
  currentKey.value = String(one.id)
  await router.replace({ name: 'rules', query: { rule: one.id } })
  written.value = givenOf(one)
  teaching.show(`${one.name} is saved${one.enabled ? ', and runs as mail arrives' : ''}.`)
}

async function removeIt(): Promise<void> {
  const one = kept.value
  if (one && (await attempt(() => remove(one)))) {
    teaching.show(`${one.name} is removed. What it did stays.`)
    void router.replace({ name: 'rules' })
  }
}

async function runIt(): Promise<void> {
  const one = kept.value
  if (one) await attempt(() => run(one))
}

function shift(by: number): void {
  const one = current.value
  if (one && !fresh.value) void attempt(() => moveTo(one, at.value + by))
}

function dropped(to: number): void {
  const one = dragged.value
  dragged.value = null
  over.value = -1
  if (one) void attempt(() => moveTo(one, to))
}

function taken(count: number): void {
  script.value = false
  void queries.invalidateQueries({ queryKey: ['rules'] })
  teaching.show(`${count === 1 ? 'One rule is' : `${count} rules are`} here now, switched off.`)
}

function begin(): void {
  script.value = false
  void router.replace({ name: 'rules', query: { rule: 'new' } })
}

function go(by: () => void): void {
  by()
  if (current.value) void open(current.value)
}

useVerbs({
  next: () => go(verbs.next),
  previous: () => go(verbs.previous),
  'rule-up': () => shift(-1),
  'rule-down': () => shift(1),
  'make-rule': begin,
})
</script>

<template>
  <div class="subscriptions rules">
    <header class="subscriptions-head">
      <h1>Rules</h1>
      <p class="subscriptions-count" role="status">
        <template v-if="all.length">Passed from the top; the first that says where decides where</template>
      </p>
      <button type="button" class="quiet-button" :aria-expanded="script" @click="script = !script">
        As Sieve
      </button>
      <button type="button" class="plain-button" data-act="new" @click="begin">New rule</button>
    </header>
    <div class="rules-body">
      <div class="rules-list" role="list" aria-label="Your rules">
        <p v-if="failed" class="list-note" role="alert">{{ failed.message }}</p>
        <p v-else-if="!rows.length && !loading" class="list-note">
          No rules yet. Say what you know for sure here, or make one of an open message.
        </p>
        <div
          v-for="(row, index) in rows"
          :key="row.key"
          class="rule-row"
          role="listitem"
          :class="{ current: !fresh && row.key === currentKey, off: !row.enabled, over: over === index }"
          :aria-current="!fresh && row.key === currentKey ? 'true' : undefined"
          :data-rule="row.name"
          draggable="true"
          @dragstart="dragged = row"
          @dragover.prevent="over = index"
          @dragleave="over = -1"
          @drop.prevent="dropped(index)"
          @click="open(row)"
        >
          <input
            type="checkbox"
            :checked="row.enabled"
            :aria-label="`${row.name} runs`"
            @click.stop
            @change="turn(row)"
          />
          <span class="rule-text">
            <bdi class="rule-name">{{ row.name }}</bdi>
            <span class="rule-does">{{ doingWords(row.actions, doings, names) }} {{ whenWords(row) }}</span>
            <span v-if="row.served" class="rule-does">runs at the server too</span>
            <span v-if="row.broken" class="rule-rests">rests: {{ row.broken }}</span>
          </span>
          <span class="rule-hits" :title="row.last ? `last ${exact(row.last)}` : ''">
            {{ row.hits ? row.hits.toLocaleString() : 'never' }}
            <small v-if="row.last">{{ near(row.last) }}</small>
          </span>
        </div>
      </div>
      <div class="rules-side">
        <RuleScript v-if="script" @close="script = false" @taken="taken" />
        <template v-else-if="fresh || kept">
          <ul v-if="against.length" class="rule-against" aria-label="What it came up against">
            <li v-for="(one, index) in against" :key="index">
              {{ conflictWords(one, named) }}
              <RouterLink
                v-if="one.message"
                :to="{
                  name: 'search',
                  params: { message: one.message },
                  query: { line: kept?.line, order: 'time' },
                }"
                >Show one</RouterLink
              >
            </li>
          </ul>
          <RuleForm
            :key="fresh ? `new ${route.query.line ?? ''}` : currentKey"
            v-model="written"
            :kept="kept"
            :doings="doings"
            :changed="changed"
            :busy="busy"
            :problem="problem"
            :running="running && running.rule === kept?.id ? running : null"
            @keep="keepIt"
            @run="runIt"
            @remove="removeIt"
            @back="fresh ? router.replace({ name: 'rules' }) : (written = before)"
          />
        </template>
      </div>
    </div>
    <EffectStrip :titles="titles" />
  </div>
</template>
