<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useDebounceFn, useEventListener } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { client, MARK, unwrap, type Letter } from '../api/client'
import { useLetters } from '../composables/letters'
import { bytes } from '../lib/time'
import PeopleField from './PeopleField.vue'
import { useTrying } from '../composables/trying'

const props = defineProps<{ letter: Letter }>()
const emit = defineEmits<{ gone: [] }>()

const PAUSE = 600
const router = useRouter()
const { put, send, throwAway } = useLetters()
const { data: identities } = useQuery({
  queryKey: ['identities'],
  queryFn: () => unwrap(client.GET('/api/identities')),
})
const path = { path: { number: props.letter.id } }
const { sender, recipients, copies, blind, subject, body } = props.letter
const written = ref({ sender, recipients, copies, blind, subject, body })
const more = ref(Boolean(copies || blind))
const kept = ref(true)
const { problem, busy, attempt } = useTrying()
const text = ref<HTMLTextAreaElement>()
const over = ref(false)
const state = computed(() => (problem.value ? '' : kept.value ? 'Kept as a draft' : 'Keeping …'))

onMounted(() => {
  const first = document.querySelector<HTMLElement>('.letter-form input[role="combobox"]')
  if (recipients) {
    text.value?.focus()
    text.value?.setSelectionRange(0, 0)
  } else first?.focus()
})

let keeping: Promise<unknown> = Promise.resolve()
function keep(): Promise<unknown> {
  if (kept.value) return keeping
  kept.value = true
  keeping = unwrap(client.PUT('/api/letters/{number}', { params: path, body: written.value })).then(put)
  keeping.catch((error: Error) => {
    kept.value = false
    problem.value = error.message
  })
  return keeping
}
const keepSoon = useDebounceFn(() => void keep(), PAUSE)

watch(
  written,
  () => {
    kept.value = false
    void keepSoon()
  },
  { deep: true },
)
onBeforeUnmount(() => void keep())
useEventListener(window, 'pagehide', () => {
  if (kept.value) return
  const headers = { 'content-type': 'application/json', ...MARK }
  const request = { method: 'PUT', headers, body: JSON.stringify(written.value), keepalive: true }
  void fetch(`/api/letters/${props.letter.id}`, request)
})

async function goes(): Promise<void> {
  const sent = await attempt(async () => {
    await keep()
    await send(props.letter.id)
  })
  // What was answered is where the owner came from.
  if (sent && props.letter.answers) router.back()
}

async function enclose(files: FileList | null | undefined): Promise<void> {
  await keep()
  for (const file of files ?? []) {
    const form = new FormData()
    form.append('file', file)
    const body = form as unknown as { file: string }
    await attempt(async () =>
      put(
        await unwrap(
          client.POST('/api/letters/{number}/enclosures', {
            params: path,
            body,
            bodySerializer: () => form,
          }),
        ),
      ),
    )
  }
}

function takeOut(enclosure: number): void {
  const params = { path: { number: props.letter.id, enclosure } }
  void attempt(async () =>
    put(await unwrap(client.DELETE('/api/letters/{number}/enclosures/{enclosure}', { params }))),
  )
}

async function discard(): Promise<void> {
  kept.value = true
  await throwAway(props.letter.id)
  emit('gone')
}
</script>

<template>
  <form
    class="letter-form"
    aria-label="Letter"
    @submit.prevent="goes"
    @keydown.ctrl.enter.prevent="goes"
    @keydown.meta.enter.prevent="goes"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="((over = false), enclose($event.dataTransfer?.files))"
  >
    <p v-if="letter.error" class="page-problem" role="alert">{{ letter.error }}</p>
    <div v-if="(identities?.length ?? 0) > 1" class="people">
      <label for="letter-sender">From</label>
      <select id="letter-sender" v-model="written.sender">
        <option v-for="one in identities" :key="one.address" :value="one.address">
          {{ one.name ? `${one.name} <${one.address}>` : one.address }}
        </option>
      </select>
    </div>
    <div class="letter-to">
      <PeopleField v-model="written.recipients" label="To" />
      <button v-if="!more" type="button" class="quiet-button" @click="more = true">copies</button>
    </div>
    <template v-if="more">
      <PeopleField v-model="written.copies" label="Copy" />
      <PeopleField v-model="written.blind" label="Hidden copy" />
    </template>
    <div class="people">
      <label for="letter-subject">Subject</label>
      <input id="letter-subject" v-model="written.subject" dir="auto" autocomplete="off" />
    </div>
    <textarea
      ref="text"
      v-model="written.body"
      class="letter-text"
      :class="{ over }"
      aria-label="Text"
      dir="auto"
      spellcheck="true"
    />
    <ul v-if="letter.enclosures.length" class="letter-files" aria-label="Files">
      <li v-for="one in letter.enclosures" :key="one.id">
        <bdi>{{ one.name }}</bdi> <span class="note">{{ bytes(one.size) }}</span>
        <button
          type="button"
          class="quiet-button"
          :aria-label="`Take out ${one.name}`"
          @click="takeOut(one.id)"
        >
          take out
        </button>
      </li>
    </ul>
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <div class="letter-acts">
      <button type="submit" class="strong-button" :disabled="busy">Send <kbd>Ctrl+Enter</kbd></button>
      <label class="plain-button"
        >Add files<input
          type="file"
          multiple
          class="visually-hidden"
          @change="enclose(($event.target as HTMLInputElement).files)"
      /></label>
      <span class="note" role="status">{{ state }}</span>
      <button type="button" class="quiet-button" @click="discard">Throw away</button>
    </div>
  </form>
</template>
