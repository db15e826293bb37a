<script setup lang="ts">
import { useNow } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Draft } from '../api/client'
import DraftForm from '../components/DraftForm.vue'
import EffectStrip from '../components/EffectStrip.vue'
import WhenField from '../components/WhenField.vue'
import { useAttempt } from '../composables/attempt'
import { useDrafts } from '../composables/drafts'
import { usePlaces } from '../composables/places'
import { dayAhead, exact, near } from '../lib/time'

const STATES: Record<Draft['state'], string> = {
  draft: 'draft',
  waiting: 'in the outbox',
  sending: 'going',
  handing: 'going',
  sent: 'sent',
  unsure: 'may have gone',
}
const SECOND = 1_000
const HOUR = 3_600
const at = ref('')

const route = useRoute()
const router = useRouter()
const { drafts, loaded, begin, send, takeBack, discard } = useDrafts()
const { attempt, problem, busy } = useAttempt()
const { titles } = usePlaces()
const number = computed(() => Number(route.params.draft || 0))
const draft = computed(() => drafts.value.find((one) => one.id === number.value))
const now = useNow({ interval: SECOND })

function title(one: Draft): string {
  return one.subject.trim() || '(no subject)'
}

function left(one: Draft): string {
  const seconds = Math.max(0, Math.round(one.due_at - now.value.getTime() / SECOND))
  if (one.timed && seconds > HOUR) return `goes ${dayAhead(one.due_at, true, now.value)}`
  return seconds ? `goes in ${seconds} s` : 'is going'
}

/** Gives what waits for its time another; of none, it goes now. */
async function resend(one: Draft, said: string): Promise<void> {
  if (await attempt(() => send(one.id, said))) at.value = ''
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
              ><template v-if="one.timed && one.state === 'waiting'">{{ left(one) }}</template
              ><template v-else
                >{{ STATES[one.state] }},
                <time :title="exact(one.changed_at)">{{ near(one.changed_at) }}</time></template
              ></span
            >
          </RouterLink>
        </li>
      </ul>
      <p v-else-if="loaded" class="list-note">
        No drafts, and nothing waits to go. What you begin to write is saved here.
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
            <button type="button" class="quiet-button" @click="(discard(draft.id), close())">
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
          <p v-if="draft.awaited" class="note">
            You get a reminder if nobody has answered by {{ dayAhead(draft.awaited, true) }}.
          </p>
          <p v-if="draft.state === 'waiting'">
            <button type="button" class="plain-button" @click="takeBack(draft.id)">
              {{ draft.timed ? 'Stop it: make it a draft again' : 'Take it back' }}
            </button>
            <button
              v-if="draft.timed"
              type="button"
              class="quiet-button"
              :disabled="busy"
              @click="resend(draft, '')"
            >
              Send it now
            </button>
          </p>
          <form v-if="draft.timed" class="draft-when" @submit.prevent="resend(draft, at)">
            <WhenField v-model="at" label="At another time" :people="draft.recipients" />
            <button type="submit" class="plain-button" :disabled="busy || !at.trim()">Change the time</button>
          </form>
          <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
        </template>
        <pre class="drafts-body" dir="auto">{{ draft.body }}</pre>
      </div>
      <p v-else class="side-empty">Choose a draft, or write a message.</p>
    </section>
    <EffectStrip :titles="titles" />
  </div>
</template>
