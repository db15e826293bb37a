<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Message } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { useDoubted, useDrain, usePreview } from '../composables/drain'
import { useTeaching } from '../composables/teaching'
import { bytes } from '../lib/time'
import { senderName, subjectOf } from '../lib/words'

const emit = defineEmits<{ open: [message: Message] }>()

const { drain, failed, change, empty } = useDrain()
const teaching = useTeaching()
const { attempt, busy } = useAttempt(teaching.show)
const scale = ref(false)
const names = ref(false)
const asking = ref(false)
const doubted = useDoubted(names)
const settings = usePreview(scale)

const CHOICES = [7, 14, 30, 60, 90, 365]
const days = computed(() => {
  const kept = drain.value?.days ?? 0
  return [...new Set([...CHOICES, ...(kept ? [kept] : [])])].sort((a, b) => a - b)
})
const most = computed(() => Math.max(1, ...settings.value.map((one) => one.drained)))

async function keepFor(event: Event): Promise<void> {
  const wanted = Number((event.target as HTMLSelectElement).value)
  await attempt(() => change({ days: wanted }))
}

async function emptyIt(): Promise<void> {
  const now = drain.value
  asking.value = false
  if (!now) return
  await attempt(async () => {
    const step = await empty(now.newest)
    teaching.tell(`${step.title}, all in the Trash.`)
  })
}
</script>

<template>
  <div class="drain" role="group" aria-label="The Drain">
    <p v-if="failed" role="alert">{{ failed.message }}</p>
    <p v-else-if="drain" class="drain-line">
      <label
        >Kept
        <select :value="drain.days" :disabled="busy" aria-label="How long mail is kept" @change="keepFor">
          <option v-for="one in days" :key="one" :value="one">{{ one }} days</option>
          <option :value="0">for good</option>
        </select></label
      >
      <span v-if="drain.leaving">{{ drain.leaving }} leave within a week</span>
      <button
        v-if="drain.doubtful"
        type="button"
        class="quiet-button"
        data-act="doubted"
        :aria-expanded="names"
        @click="names = !names"
      >
        {{ drain.doubtful }} doubtful
      </button>
      <button type="button" class="quiet-button" :aria-expanded="scale" @click="scale = !scale">
        Strictness
      </button>
      <button v-if="drain.total && !asking" type="button" class="quiet-button" @click="asking = true">
        Empty
      </button>
    </p>
    <p v-if="asking && drain" class="drain-line" role="alert">
      {{ drain.total }} {{ drain.total === 1 ? 'message' : 'messages' }}, {{ bytes(drain.size) }}, go to the
      Trash; undo brings them back.
      <button type="button" class="plain-button" :disabled="busy" data-act="empty" @click="emptyIt">
        Empty it
      </button>
      <button type="button" class="quiet-button" @click="asking = false">Cancel</button>
    </p>
    <ul v-if="names" class="drain-names" aria-label="Doubtful, by sender">
      <li v-for="message in doubted" :key="message.id">
        <button type="button" class="quiet-button" @click="emit('open', message)">
          <bdi>{{ senderName(message) }}</bdi>
          <bdi class="note">{{ subjectOf(message.subject) }}</bdi>
        </button>
      </li>
    </ul>
    <div v-if="scale" class="drain-scale" role="radiogroup" aria-label="What good mail in the Drain costs">
      <p class="note">
        The more good mail in the Drain costs you, the less is drained. What each setting would have done with
        the mail of the last month, by today’s model; good is what you answered or put elsewhere.
      </p>
      <label v-for="one in settings" :key="one.cost" class="drain-setting">
        <input
          type="radio"
          name="drain-cost"
          class="form-check-input"
          :checked="drain?.cost === one.cost"
          :value="one.cost"
          @change="attempt(() => change({ cost: one.cost }))"
        />
        <span>{{ one.cost === 1 ? 'as a needless message on the Desk' : `${one.cost} times that` }}</span>
        <i aria-hidden="true"><i :style="{ width: `${(100 * one.drained) / most}%` }"></i></i>
        <span>{{ one.drained }} drained, {{ one.good }} good</span>
      </label>
    </div>
  </div>
</template>
