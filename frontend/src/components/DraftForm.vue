<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useDebounceFn, useEventListener } from '@vueuse/core'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { client, MARK, unwrap, type Draft } from '../api/client'
import { useDrafts } from '../composables/drafts'
import { usePhrases, usePhrasing } from '../composables/phrases'
import { holesIn, shortBefore } from '../lib/phrases'
import { bytes } from '../lib/time'
import DraftHoles from './DraftHoles.vue'
import PeopleField from './PeopleField.vue'
import WhenField from './WhenField.vue'
import { useAttempt } from '../composables/attempt'

const props = defineProps<{ draft: Draft }>()
const emit = defineEmits<{ gone: [] }>()

const PAUSE = 600
const router = useRouter()
const { put, send, discard } = useDrafts()
const { fillIn } = usePhrasing()
const { all: phrases } = usePhrases(computed(() => props.draft.answers ?? 0))
const { data: identities } = useQuery({
  queryKey: ['identities'],
  queryFn: () => unwrap(client.GET('/api/identities')),
})
const path = { path: { number: props.draft.id } }
const { sender, recipients, cc, bcc, subject, body } = props.draft
const written = ref({ sender, recipients, cc, bcc, subject, body })
const more = ref(Boolean(cc || bcc))
const kept = ref(true)
const { problem, busy, attempt } = useAttempt()
const text = ref<HTMLTextAreaElement>()
const over = ref(false)
const reminds = ref(false)
const when = ref(false)
const at = ref('')
const awaited = ref('')
const state = computed(() => (problem.value ? '' : kept.value ? 'Saved' : 'Saving …'))

onMounted(() => {
  const first = document.querySelector<HTMLElement>('.draft-form input[role="combobox"]')
  if (recipients) {
    text.value?.focus()
    text.value?.setSelectionRange(0, 0)
  } else first?.focus()
})

let keeping: Promise<unknown> = Promise.resolve()
function keep(): Promise<unknown> {
  if (kept.value) return keeping
  kept.value = true
  keeping = unwrap(client.PUT('/api/drafts/{number}', { params: path, body: written.value })).then(put)
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
  void fetch(`/api/drafts/${props.draft.id}`, request)
})

/** Puts a phrase in: where its short name stands before the cursor, in its place. */
async function phrase(short: string, typed = ''): Promise<void> {
  const field = text.value
  if (!field) return
  const cursor = field.selectionEnd
  await attempt(async () => {
    const said = await fillIn(props.draft.id, short)
    const { body } = written.value
    const from = cursor - typed.length
    written.value.body = body.slice(0, from) + said + body.slice(cursor)
    await nextTick()
    const first = holesIn(said)[0]
    const at = from + (first ? said.indexOf(first) : said.length)
    field.focus()
    field.setSelectionRange(at, at + (first?.length ?? 0))
  })
}

/** Tab behind the short name of a phrase puts it in; anywhere else it goes on to the next field. */
function tabbed(event: KeyboardEvent): void {
  const field = text.value
  if (!field || event.shiftKey || field.selectionStart !== field.selectionEnd) return
  const typed = shortBefore(written.value.body, field.selectionEnd)
  const known = phrases.value.find((one) => one.short.toLowerCase() === typed.toLowerCase())
  if (!known) return
  event.preventDefault()
  void phrase(known.short, typed)
}

/** What is missing in the message; it is asked about once. */
const missing = computed(() => {
  const { subject, body } = written.value
  const text = body.trim() || props.draft.attachments.length
  if (subject.trim()) return text ? '' : 'It has no text.'
  return text ? 'It has no subject.' : 'It has neither subject nor text.'
})
const asks = ref(false)
watch(missing, () => (asks.value = false))

async function goes(): Promise<void> {
  if (missing.value && !asks.value) {
    asks.value = true
    return
  }
  const sent = await attempt(async () => {
    await keep()
    await send(props.draft.id, at.value, awaited.value)
  })
  // What was answered is where the owner came from.
  if (sent && props.draft.answers) router.back()
}

async function attach(files: FileList | null | undefined): Promise<void> {
  await keep()
  for (const file of files ?? []) {
    const form = new FormData()
    form.append('file', file)
    const body = form as unknown as { file: string }
    await attempt(async () =>
      put(
        await unwrap(
          client.POST('/api/drafts/{number}/attachments', {
            params: path,
            body,
            bodySerializer: () => form,
          }),
        ),
      ),
    )
  }
}

function takeOut(attachment: number): void {
  const params = { path: { number: props.draft.id, attachment } }
  void attempt(async () =>
    put(await unwrap(client.DELETE('/api/drafts/{number}/attachments/{attachment}', { params }))),
  )
}

/** Discards it as it stands now, so that undo brings all of it back. */
async function letGo(): Promise<void> {
  await attempt(keep)
  if (await discard(props.draft.id)) emit('gone')
}
</script>

<template>
  <form
    class="draft-form"
    aria-label="Draft"
    @submit.prevent
    @keydown.ctrl.enter.prevent="goes"
    @keydown.meta.enter.prevent="goes"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="((over = false), attach($event.dataTransfer?.files))"
  >
    <p v-if="draft.error" class="page-problem" role="alert">{{ draft.error }}</p>
    <div v-if="(identities?.length ?? 0) > 1" class="people">
      <label for="draft-sender">From</label>
      <select id="draft-sender" v-model="written.sender">
        <option v-for="one in identities" :key="one.address" :value="one.address">
          {{ one.name ? `${one.name} <${one.address}>` : one.address }}
        </option>
      </select>
    </div>
    <div class="draft-to">
      <PeopleField v-model="written.recipients" label="To" />
      <button v-if="!more" type="button" class="quiet-button" @click="more = true">Cc, Bcc</button>
    </div>
    <template v-if="more">
      <PeopleField v-model="written.cc" label="Cc" />
      <PeopleField v-model="written.bcc" label="Bcc" />
    </template>
    <div class="people">
      <label for="draft-subject">Subject</label>
      <input id="draft-subject" v-model="written.subject" dir="auto" autocomplete="off" />
    </div>
    <textarea
      ref="text"
      v-model="written.body"
      class="draft-text"
      :class="{ over }"
      aria-label="Text"
      dir="auto"
      spellcheck="true"
      @keydown.tab="tabbed"
    />
    <DraftHoles v-if="draft.phrased" v-model="written.body" />
    <ul v-if="draft.attachments.length" class="draft-files" aria-label="Attachments">
      <li v-for="one in draft.attachments" :key="one.id">
        <bdi>{{ one.name }}</bdi> <span class="note">{{ bytes(one.size) }}</span>
        <button
          type="button"
          class="quiet-button"
          :aria-label="`Remove ${one.name}`"
          @click="takeOut(one.id)"
        >
          remove
        </button>
      </li>
    </ul>
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <p v-if="asks" class="page-problem" role="alert">{{ missing }} Send again to send it all the same.</p>
    <div v-if="when || reminds" class="draft-when">
      <WhenField v-if="when" v-model="at" label="Send at" :people="written.recipients" focus />
      <WhenField v-if="reminds" v-model="awaited" label="Reminder if no answer by" :focus="!when" />
    </div>
    <div class="draft-acts">
      <button type="button" class="strong-button" data-act="send" :disabled="busy" @click="goes">
        {{ at.trim() ? 'Send at that time' : asks ? 'Send all the same' : 'Send' }} <kbd>Ctrl+Enter</kbd>
      </button>
      <label class="plain-button"
        >Attach files<input
          type="file"
          multiple
          class="visually-hidden"
          @change="attach(($event.target as HTMLInputElement).files)"
      /></label>
      <BDropdown v-if="phrases.length" size="sm" variant="link" text="Phrases" no-caret class="draft-phrases">
        <BDropdownItem v-for="one in phrases" :key="one.id" @click="phrase(one.short)">
          <strong>{{ one.short }}</strong> {{ one.text.slice(0, 60) }}
        </BDropdownItem>
      </BDropdown>
      <button type="button" class="plain-button" data-act="when" :aria-expanded="when" @click="when = !when">
        Send later
      </button>
      <button
        type="button"
        class="plain-button"
        data-act="reminds"
        :aria-expanded="reminds"
        @click="reminds = !reminds"
      >
        Reminder if no answer
      </button>
      <span class="note" role="status">{{ state }}</span>
      <button type="button" class="quiet-button" @click="letGo">Discard</button>
    </div>
  </form>
</template>
