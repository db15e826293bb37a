<script setup lang="ts">
import { useNow } from '@vueuse/core'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Draft } from '../api/client'
import DraftForm from '../components/DraftForm.vue'
import { useDrafts } from '../composables/drafts'
import { exact, near } from '../lib/time'

const STATES: Record<Draft['state'], string> = {
  draft: 'draft',
  waiting: 'in the outbox',
  sending: 'going',
  handing: 'going',
  sent: 'sent',
  unsure: 'may have gone',
}
const SECOND = 1_000

const route = useRoute()
const router = useRouter()
const { drafts, loaded, begin, takeBack, throwAway } = useDrafts()
const number = computed(() => Number(route.params.draft || 0))
const draft = computed(() => drafts.value.find((one) => one.id === number.value))
const now = useNow({ interval: SECOND })

function title(one: Draft): string {
  return one.subject.trim() || '(no subject)'
}

function left(one: Draft): string {
  const seconds = Math.max(0, Math.round(one.due_at - now.value.getTime() / SECOND))
  return seconds ? `goes in ${seconds} s` : 'is going'
}

function close(): void {
  void router.push({ name: 'outgoing', params: { draft: '' } })
}
</script>

<template>
  <div class="drafts">
    <section class="drafts-list" aria-label="Drafts and outbox">
      <div class="list-head">
        <h1>Outgoing</h1>
        <span v-if="loaded" class="list-count">{{ drafts.length }} not sent</span>
        <button type="button" class="plain-button" @click="begin('new')">Write</button>
      </div>
      <ul v-if="drafts.length">
        <li v-for="one in drafts" :key="one.id" :class="{ here: one.id === number }">
          <RouterLink
            :to="{ name: 'outgoing', params: { draft: String(one.id) } }"
            :aria-current="one.id === number ? 'true' : undefined"
          >
            <bdi class="drafts-subject">{{ title(one) }}</bdi>
            <bdi class="drafts-to">{{ one.recipients || 'to nobody yet' }}</bdi>
            <span class="drafts-state"
              >{{ STATES[one.state] }},
              <time :title="exact(one.changed_at)">{{ near(one.changed_at) }}</time></span
            >
          </RouterLink>
        </li>
      </ul>
      <p v-else-if="loaded" class="list-note">
        No drafts, and nothing waits to go. What you begin to write is kept here.
      </p>
    </section>
    <section class="drafts-open" aria-label="Open draft">
      <DraftForm v-if="draft?.state === 'draft'" :key="draft.id" :draft="draft" @gone="close" />
      <div v-else-if="draft" class="drafts-fixed">
        <h2>
          <bdi>{{ title(draft) }}</bdi>
        </h2>
        <p class="note">
          to <bdi>{{ draft.recipients }}</bdi>
        </p>
        <template v-if="draft.state === 'unsure'">
          <p class="page-problem" role="alert">{{ draft.error }}</p>
          <p>
            <button type="button" class="plain-button" @click="takeBack(draft.id)">
              It did not go: make it a draft again
            </button>
            <button type="button" class="quiet-button" @click="(throwAway(draft.id), close())">
              It went: take it off this list
            </button>
          </p>
        </template>
        <template v-else>
          <p>
            <span role="status">{{ STATES[draft.state] }}</span><span
              v-if="draft.state === 'waiting'"
              aria-hidden="true"
              >, {{ left(draft) }}</span
            >
          </p>
          <p v-if="draft.error" class="page-problem">{{ draft.error }}</p>
          <p v-if="draft.state === 'waiting'">
            <button type="button" class="plain-button" @click="takeBack(draft.id)">Take it back</button>
          </p>
        </template>
        <pre class="drafts-body" dir="auto">{{ draft.body }}</pre>
      </div>
      <p v-else class="side-empty">Choose a draft, or write a message.</p>
    </section>
  </div>
</template>
