<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Ranking } from '../api/client'
import SearchForm from '../components/SearchForm.vue'
import SearchInstead from '../components/SearchInstead.vue'
import SearchLine from '../components/SearchLine.vue'
import SearchStart from '../components/SearchStart.vue'
import WorkBench from '../components/WorkBench.vue'
import { run, useVerbs } from '../composables/actions'
import { useFound } from '../composables/messages'
import { useRuleMaking } from '../composables/rules'
import { useSavedSearches } from '../composables/search'
import { appearance, remember } from '../composables/settings'

const RANKINGS: Record<Ranking, string> = {
  relevance: 'by relevance',
  time: 'newest first',
  importance: 'by importance',
}

const route = useRoute()
const router = useRouter()
const { saved, save } = useSavedSearches()
const { begin } = useRuleMaking()

const line = computed(() => String(route.query.line ?? ''))
const ranking = computed<Ranking>(() => {
  const wanted = String(route.query.order ?? 'relevance')
  return wanted in RANKINGS ? (wanted as Ranking) : 'relevance'
})
const openId = computed(() => Number(route.params.message || 0))
const found = useFound(line, ranking)
const first = computed(() => found.first.value)
const form = ref(false)
const total = computed(() => {
  if (!first.value) return ''
  const { total: count, beyond } = first.value
  return beyond
    ? `more than ${count.toLocaleString()} messages`
    : `${count} ${count === 1 ? 'message' : 'messages'}`
})
const named = computed(() => saved.value.find((one) => one.line === line.value.trim()))

watch(line, () => (form.value = false))

function go(wanted: string, order: Ranking = ranking.value): void {
  if (wanted.trim()) remember(wanted.trim())
  void router.push({ name: 'search', query: { line: wanted.trim(), order } })
}

function show(message?: number): void {
  void router.replace({
    name: 'search',
    params: { message: message ? String(message) : '' },
    query: route.query,
  })
}

async function all(sender: string): Promise<{ messages: number[]; total: number }> {
  const rows = found.messages.value.filter((one) => !sender || one.sender_address === sender)
  return { messages: rows.map((one) => one.id), total: sender ? rows.length : (first.value?.total ?? 0) }
}

useVerbs({ 'save-search': (name = '') => save(name, line.value) })
</script>

<template>
  <WorkBench
    :ahead="[]"
    :list="found.messages.value"
    place=""
    :open-id="openId"
    :total="first?.total ?? 0"
    :has-more="found.hasMore.value"
    :loading="Boolean(line) && found.loading.value"
    :loading-more="found.loadingMore.value"
    :failed="found.failed.value?.message ?? ''"
    label="Found mail"
    :by-day="appearance.byDay && ranking === 'time'"
    mixed
    :all="all"
    @show="show"
    @more="found.more"
  >
    <template #top>
      <header class="search-top">
        <h1 class="visually-hidden">Search</h1>
        <SearchLine :line="line" :form="form" @go="go" @form="form = !form" />
        <SearchForm v-if="form" :line="line" @go="go" />
      </header>
    </template>
    <template #head="{ picked, clear }">
      <div v-if="line" class="list-head">
        <span v-if="picked" class="list-picked">
          {{ picked }} selected
          <button type="button" class="quiet-button" @click="clear">clear</button>
        </span>
        <span v-else class="list-count" role="status">{{ total }}</span>
        <button
          v-if="line && !named"
          type="button"
          class="quiet-button list-order"
          @click="run('save-search')"
        >
          Save
        </button>
        <span v-else-if="named" class="list-order">saved as “{{ named.name }}”</span>
        <button
          type="button"
          class="quiet-button"
          title="Make a rule of this line"
          @click="begin(named?.name ?? line.slice(0, 60), line)"
        >
          Rule
        </button>
        <label :class="{ 'list-order': !line }">
          <span class="visually-hidden">Order</span>
          <select
            :value="ranking"
            title="Order"
            @change="go(line, ($event.target as HTMLSelectElement).value as Ranking)"
          >
            <option v-for="(words, name) in RANKINGS" :key="name" :value="name">{{ words }}</option>
          </select>
        </label>
      </div>
    </template>
    <template #empty>
      <SearchInstead v-if="line" :line="line" @go="(wanted) => go(wanted)" />
      <SearchStart v-else @go="(wanted) => go(wanted)" />
    </template>
  </WorkBench>
</template>
