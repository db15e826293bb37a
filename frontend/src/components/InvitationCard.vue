<script setup lang="ts">
import { ref, watch } from 'vue'
import { client, unwrap, type Invitation, type Participation } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { useDrafts } from '../composables/drafts'
import { useTeaching } from '../composables/teaching'
import { lasting } from '../lib/time'

const props = defineProps<{ invitation: Invitation; number: number }>()
const SHOWN = 8
const ANSWERS: { answer: Participation; text: string }[] = [
  { answer: 'accepted', text: 'I come' },
  { answer: 'tentative', text: 'Maybe' },
  { answer: 'declined', text: 'I do not come' },
]

const { put } = useDrafts()
const { show } = useTeaching()
const given = ref('')

watch(
  () => props.number,
  () => (given.value = ''),
)

const { attempt } = useAttempt(show)

async function reply(answer: Participation, text: string): Promise<void> {
  const params = { path: { number: props.number } }
  const done = await attempt(async () =>
    put(await unwrap(client.POST('/api/messages/{number}/invitation', { params, body: { answer } }))),
  )
  if (done) given.value = text
}
</script>

<template>
  <section class="invitation" aria-label="Invitation">
    <p class="invitation-kind">{{ invitation.kind }}</p>
    <h3 dir="auto">{{ invitation.title }}</h3>
    <dl>
      <dt>When</dt>
      <dd>
        {{ lasting(invitation.start, invitation.end, invitation.all_day)
        }}<template v-if="invitation.repeats">, and again</template>
      </dd>
      <template v-if="invitation.place">
        <dt>Where</dt>
        <dd>
          <bdi>{{ invitation.place }}</bdi>
        </dd>
      </template>
      <template v-if="invitation.organiser">
        <dt>By</dt>
        <dd>
          <bdi>{{ invitation.organiser }}</bdi>
        </dd>
      </template>
      <template v-if="invitation.attendees.length">
        <dt>With</dt>
        <dd>
          <bdi>{{ invitation.attendees.slice(0, SHOWN).join(', ') }}</bdi>
          <template v-if="invitation.attendees.length > SHOWN">
            and {{ invitation.attendees.length - SHOWN }} more</template
          >
        </dd>
      </template>
    </dl>
    <p v-if="invitation.kind === 'Invitation' && invitation.organiser" class="invitation-answer">
      <span v-if="given" role="status">Answered: {{ given }}.</span>
      <template v-else>
        <button
          v-for="one in ANSWERS"
          :key="one.answer"
          type="button"
          class="plain-button"
          @click="reply(one.answer, one.text)"
        >
          {{ one.text }}
        </button>
      </template>
    </p>
  </section>
</template>
