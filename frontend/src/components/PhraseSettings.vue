<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useAttempt } from '../composables/attempt'
import { usePhrases } from '../composables/phrases'
import { bytes } from '../lib/time'
import KeptList from './KeptList.vue'

const emit = defineEmits<{ said: [text: string] }>()

const FILLS = [
  ['{first name|there}', 'their first name; what stands behind the bar where it is not known'],
  ['{name}, {address}, {subject}', 'of the message that is answered'],
  ['{date}, {date in 3 days}', 'counted from the day it is used'],
  ['{choose Monday|Tuesday}', 'one of them is chosen then'],
  ['{ask the price}', 'it is written then'],
  ['{phrase sign-off}', 'another phrase'],
] as const
const { all, loading, failed, keep, remove, attach, takeOut, takeIn } = usePhrases()
const { attempt, answer, busy, problem } = useAttempt()
const number = ref(0)
const short = ref('')
const text = ref('')
const rows = computed(() =>
  all.value.map(({ id, short, text, uses }) => {
    return { id, name: short, text, about: uses ? `used ${uses} times` : '' }
  }),
)
const open = computed(() => all.value.find((one) => one.id === number.value))

watch(number, () => {
  short.value = open.value?.short ?? ''
  text.value = open.value?.text ?? ''
  problem.value = ''
})

async function save(): Promise<void> {
  const kept = await answer(() => keep(short.value, text.value, number.value))
  if (!kept) return
  number.value = kept.id
  emit('said', `“${kept.short}” is saved. Type it and Tab while you write.`)
}

/** Takes the phrase out; its text stays in the form, to be kept again. */
async function drop(): Promise<void> {
  const [name, said] = [short.value, text.value]
  if (!(await attempt(() => remove(number.value)))) return
  number.value = 0
  await nextTick()
  ;[short.value, text.value] = [name, said]
  emit('said', `“${name}” is removed. Its text stands below until you leave, so that you can add it again.`)
}

async function files(chosen: FileList | null): Promise<void> {
  for (const file of chosen ?? []) await attempt(() => attach(number.value, file))
}

async function read(chosen: FileList | null): Promise<void> {
  const file = chosen?.[0]
  if (!file) return
  const done = await answer(async () => {
    let given
    try {
      given = JSON.parse(await file.text())
    } catch {
      throw new Error(`${file.name} is no JSON. Choose a phrasebook as it was written.`)
    }
    return takeIn(given)
  })
  if (done) emit('said', `${done.count} phrases taken in.`)
}
</script>

<template>
  <section class="phrases" aria-label="Phrasebook">
    <p v-if="failed" class="page-problem" role="alert">{{ failed.message }}</p>
    <KeptList
      v-else
      v-model="number"
      label="Your phrases"
      :rows="rows"
      :none="loading ? '' : 'No phrases yet.'"
    />
    <form class="phrase-form" @submit.prevent="save">
      <label for="phrase-short">Short name</label>
      <input id="phrase-short" v-model="short" class="form-control" maxlength="40" autocomplete="off" />
      <label for="phrase-text">Text</label>
      <textarea
        id="phrase-text"
        v-model="text"
        class="form-control"
        rows="7"
        dir="auto"
        @keydown.ctrl.enter.prevent="save"
      />
      <ul v-if="open?.files.length" class="draft-files" aria-label="Files that go along">
        <li v-for="file in open.files" :key="file.id">
          <bdi>{{ file.name }}</bdi> <span class="note">{{ bytes(file.size) }}</span>
          <button
            type="button"
            class="quiet-button"
            :aria-label="`Remove ${file.name}`"
            @click="attempt(() => takeOut(number, file.id))"
          >
            remove
          </button>
        </li>
      </ul>
      <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
      <p class="phrase-acts">
        <button type="submit" class="strong-button" :disabled="busy || !short.trim() || !text.trim()">
          {{ number ? 'Save' : 'Add the phrase' }}
        </button>
        <button v-if="number" type="button" class="plain-button" @click="number = 0">New phrase</button>
        <label v-if="number" class="plain-button"
          >Files that go along<input
            type="file"
            multiple
            class="visually-hidden"
            @change="files(($event.target as HTMLInputElement).files)"
        /></label>
        <button v-if="number" type="button" class="quiet-button" @click="drop">Remove</button>
      </p>
    </form>
    <dl class="phrase-fills">
      <template v-for="[written, means] in FILLS" :key="written">
        <dt>
          <code>{{ written }}</code>
        </dt>
        <dd>{{ means }}</dd>
      </template>
    </dl>
    <p class="phrase-acts">
      <a class="quiet-button" href="/api/phrasebook" download="phrasebook.json">Export as JSON</a>
      <label class="quiet-button"
        >Import JSON<input
          type="file"
          accept="application/json"
          class="visually-hidden"
          @change="read(($event.target as HTMLInputElement).files)"
      /></label>
    </p>
  </section>
</template>
