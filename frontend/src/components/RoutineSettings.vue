<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { RoutineAction, TriedRoutine } from '../api/client'
import { useVerbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { timedFor } from '../composables/following'
import { useRoutines } from '../composables/routines'
import { chosenKeys } from '../composables/settings'
import { keyName } from '../lib/actions'
import { keyProblem } from '../lib/routines'
import { subjectOf } from '../lib/words'
import ActionList from './ActionList.vue'
import KeptList from './KeptList.vue'

const emit = defineEmits<{ said: [text: string] }>()

const route = useRoute()
const { all, doings, loading, failed, keep, remove, tryOn } = useRoutines()
const { attempt, answer, busy, problem } = useAttempt()
const number = ref(0)
const name = ref('')
const key = ref('')
const actions = ref<RoutineAction[]>([{ verb: 'archive', target: '' }])
const tried = ref<TriedRoutine>()
const rows = computed(() =>
  all.value.map(({ id, name, key, actions, broken }) => {
    const does = actions.map(({ verb }) => doings.value.find((one) => one.verb === verb)?.title).join(', ')
    return { id, name, text: broken ? `rests: ${broken}` : does, about: key }
  }),
)
const open = computed(() => all.value.find((one) => one.id === number.value))
const clash = computed(() => keyProblem(key.value.trim(), chosenKeys.value))
/** The message it is tried on: the one it was begun at, or the last that was open. */
const message = computed(() => Number(route.query.message ?? 0) || timedFor.value)

watch(number, () => {
  name.value = open.value?.name ?? ''
  key.value = open.value?.key ?? ''
  actions.value = open.value?.actions.map((one) => ({ ...one })) ?? [{ verb: 'archive', target: '' }]
  problem.value = ''
})
watch([actions, number], () => (tried.value = undefined), { deep: true })

async function save(): Promise<void> {
  const given = { name: name.value, key: key.value.trim(), actions: actions.value }
  const kept = await answer(() => keep(number.value, given))
  if (!kept) return
  number.value = kept.id
  emit(
    'said',
    `“${kept.name}” is saved.${kept.key ? ` ${keyName(kept.key)} does it to what is open or selected.` : ''}`,
  )
}

async function drop(): Promise<void> {
  const gone = name.value
  if (!(await attempt(() => remove(number.value)))) return
  number.value = 0
  emit('said', `“${gone}” is removed. What it did stays done.`)
}

useVerbs({ 'try-out': tryIt })

async function tryIt(): Promise<void> {
  if (message.value) tried.value = await answer(() => tryOn(message.value, actions.value))
}
</script>

<template>
  <section class="phrases" aria-label="Routines">
    <p v-if="failed" class="page-problem" role="alert">{{ failed.message }}</p>
    <KeptList
      v-else
      v-slot="{ about }"
      v-model="number"
      label="Your routines"
      :rows="rows"
      :none="loading ? '' : 'No routines yet.'"
    >
      <kbd v-if="about">{{ keyName(about) }}</kbd>
    </KeptList>
    <form class="rule-form" aria-label="A routine" @submit.prevent="save">
      <div class="rule-part">
        <label class="rule-step" for="routine-name">Name</label>
        <div class="rule-when">
          <input id="routine-name" v-model="name" class="form-control" maxlength="60" autocomplete="off" />
          <label for="routine-key" class="rule-step">Key</label>
          <input
            id="routine-key"
            v-model="key"
            class="form-control routine-key"
            maxlength="1"
            autocomplete="off"
            placeholder="none"
            :aria-describedby="clash ? 'routine-clash' : undefined"
          />
          <span v-if="clash" id="routine-clash" class="rule-broken" role="alert">{{ clash }}</span>
        </div>
      </div>
      <div class="rule-part">
        <span class="rule-step">Does</span>
        <div><ActionList v-model="actions" :doings="doings" from="when it is done" /></div>
      </div>
      <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
      <p class="phrase-acts">
        <button
          type="submit"
          class="strong-button"
          data-act="keep-routine"
          :disabled="busy || !name.trim() || Boolean(clash)"
        >
          {{ number ? 'Save' : 'Add the routine' }}
        </button>
        <button
          type="button"
          class="plain-button"
          data-act="try-routine"
          :disabled="busy || !message"
          :title="message ? '' : 'Open a message first, then come back'"
          @click="tryIt"
        >
          Try it on the open message
        </button>
        <button v-if="number" type="button" class="plain-button" @click="number = 0">New routine</button>
        <button v-if="number" type="button" class="quiet-button" @click="drop">Remove</button>
      </p>
    </form>
    <section v-if="tried" class="routine-tried" aria-label="What it would do" role="status">
      <p>
        To “<bdi>{{ subjectOf(tried.subject) }}</bdi
        >” it would do this. Nothing is done.
      </p>
      <p v-if="tried.refused" class="rule-broken">It cannot be done: {{ tried.refused }}.</p>
      <ol>
        <li v-for="(line, at) in tried.lines" :key="at">
          {{ line.words }}
          <pre v-if="line.text" dir="auto">{{ line.text }}</pre>
        </li>
      </ol>
    </section>
  </section>
</template>
