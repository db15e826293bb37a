<script setup lang="ts">
import { ref } from 'vue'
import { useAttempt } from '../composables/attempt'
import { useTeaching } from '../composables/teaching'
import { useTrash } from '../composables/trash'
import { bytes } from '../lib/time'

const { trash, failed, empty } = useTrash()
const teaching = useTeaching()
const { attempt, busy } = useAttempt(teaching.show)
const asking = ref(false)

function many(count: number): string {
  return count === 1 ? 'one message' : `${count.toLocaleString()} messages`
}

async function emptyIt(): Promise<void> {
  const now = trash.value
  asking.value = false
  if (!now) return
  await attempt(async () => {
    const step = await empty(now.messages)
    teaching.show(`${step.title}.`)
  })
}
</script>

<template>
  <div
    v-if="failed || (trash && (trash.messages || trash.going || trash.staying))"
    class="drain"
    role="group"
    aria-label="The Trash"
  >
    <p v-if="failed" role="alert">{{ failed.message }}</p>
    <p v-else-if="trash" class="drain-line">
      <span v-if="trash.messages && !asking">{{ many(trash.messages) }}, {{ bytes(trash.size) }}</span>
      <span
        v-if="trash.staying"
        title="They stand elsewhere in a mailbox still, or in one where nothing is moved."
      >
        {{ many(trash.staying) }} not yet in the Trash of their mailbox
      </span>
      <span v-if="trash.going" role="status">{{ many(trash.going) }} going for good</span>
      <button
        v-if="trash.messages && !asking"
        type="button"
        class="quiet-button"
        data-act="ask-empty"
        @click="asking = true"
      >
        Empty the Trash
      </button>
    </p>
    <p v-if="asking && trash" class="drain-line" role="alert">
      {{ many(trash.messages) }}, {{ bytes(trash.size) }}, go for good, here and on the server. This cannot be
      undone, and no earlier step brings them back. What they taught stays; so do their lines in the journal.
      <button type="button" class="plain-button" :disabled="busy" data-act="empty-trash" @click="emptyIt">
        Delete for good
      </button>
      <button type="button" class="quiet-button" @click="asking = false">Cancel</button>
    </p>
  </div>
</template>
