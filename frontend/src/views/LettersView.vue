<script setup lang="ts">
import { useNow } from '@vueuse/core'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Letter } from '../api/client'
import LetterForm from '../components/LetterForm.vue'
import { useLetters } from '../composables/letters'
import { exact, near } from '../lib/time'

const STATES: Record<Letter['state'], string> = {
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
const { letters, begin, takeBack, throwAway } = useLetters()
const number = computed(() => Number(route.params.letter || 0))
const letter = computed(() => letters.value.find((one) => one.id === number.value))
const now = useNow({ interval: SECOND })

function title(one: Letter): string {
  return one.subject.trim() || '(no subject)'
}

function left(one: Letter): string {
  const seconds = Math.max(0, Math.round(one.due_at - now.value.getTime() / SECOND))
  return seconds ? `goes in ${seconds} s` : 'is going'
}

function close(): void {
  void router.push({ name: 'letters', params: { letter: '' } })
}
</script>

<template>
  <div class="letters">
    <section class="letters-list" aria-label="Drafts and outbox">
      <div class="list-head">
        <h1>Letters</h1>
        <span class="list-count">{{ letters.length }} not sent</span>
        <button type="button" class="plain-button" @click="begin('new')">Write</button>
      </div>
      <ul v-if="letters.length">
        <li v-for="one in letters" :key="one.id" :class="{ here: one.id === number }">
          <RouterLink
            :to="{ name: 'letters', params: { letter: String(one.id) } }"
            :aria-current="one.id === number ? 'true' : undefined"
          >
            <bdi class="letters-subject">{{ title(one) }}</bdi>
            <bdi class="letters-to">{{ one.recipients || 'to nobody yet' }}</bdi>
            <span class="letters-state"
              >{{ STATES[one.state] }},
              <time :title="exact(one.changed_at)">{{ near(one.changed_at) }}</time></span
            >
          </RouterLink>
        </li>
      </ul>
      <p v-else class="list-note">
        No drafts, and nothing waits to go. What you begin to write is kept here.
      </p>
    </section>
    <section class="letters-open" aria-label="Open letter">
      <LetterForm v-if="letter?.state === 'draft'" :key="letter.id" :letter="letter" @gone="close" />
      <div v-else-if="letter" class="letters-fixed">
        <h2>
          <bdi>{{ title(letter) }}</bdi>
        </h2>
        <p class="note">
          to <bdi>{{ letter.recipients }}</bdi>
        </p>
        <template v-if="letter.state === 'unsure'">
          <p class="page-problem" role="alert">{{ letter.error }}</p>
          <p>
            <button type="button" class="plain-button" @click="takeBack(letter.id)">
              It did not go: make it a draft again
            </button>
            <button type="button" class="quiet-button" @click="(throwAway(letter.id), close())">
              It went: take it off this list
            </button>
          </p>
        </template>
        <template v-else>
          <p role="status">{{ letter.state === 'waiting' ? left(letter) : STATES[letter.state] }}</p>
          <p v-if="letter.error" class="page-problem">{{ letter.error }}</p>
          <p v-if="letter.state === 'waiting'">
            <button type="button" class="plain-button" @click="takeBack(letter.id)">Take it back</button>
          </p>
        </template>
        <pre class="letters-body" dir="auto">{{ letter.body }}</pre>
      </div>
      <p v-else class="side-empty">Choose a letter, or write a new one.</p>
    </section>
  </div>
</template>
