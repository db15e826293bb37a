<script setup lang="ts">
import { computed, ref } from 'vue'
import { possible } from '../composables/actions'
import { chosenKeys, singleKeys } from '../composables/settings'
import { ACTIONS, FIRST_KEYS, GROUPS, keyName, keysOf, type ActionName } from '../lib/actions'

const shown = defineModel<boolean>({ required: true })
const word = ref('')

interface Line {
  name: ActionName
  title: string
  keys: readonly string[]
  now: boolean
}

const lines = computed(() => {
  const now = new Set(possible.value.map((one) => one.name))
  const all = ACTIONS.map((one): [ActionName, Line] => [
    one.name,
    { name: one.name, title: one.title, keys: keysOf(one, chosenKeys.value), now: now.has(one.name) },
  ])
  return new Map(all.filter(([, line]) => line.keys.length))
})
const of = (names: readonly ActionName[]) => names.flatMap((name) => lines.value.get(name) ?? [])
/** What has the word, those that work now first. */
const groups = computed(() => {
  const wanted = word.value.trim().toLowerCase()
  const fits = (line: Line) =>
    !wanted ||
    line.title.toLowerCase().includes(wanted) ||
    line.keys.some((key) => keyName(key) === word.value.trim())
  const all = [
    ...(wanted ? [] : [{ title: 'The ten to begin with', lines: of(FIRST_KEYS) }]),
    ...GROUPS.map(({ title, names }) => ({ title, lines: of(names).filter(fits) })),
  ]
  const sorted = all.map(({ title, lines: found }) => ({
    title,
    lines: [...found.filter((line) => line.now), ...found.filter((line) => !line.now)],
  }))
  return sorted.filter((group) => group.lines.length)
})
</script>

<template>
  <BModal
    v-model="shown"
    title="Keys"
    title-tag="h2"
    size="xl"
    no-footer
    centered
    scrollable
    aria-modal="true"
  >
    <p v-if="!singleKeys" class="note">Single keys are switched off in the settings.</p>
    <p class="keys-find">
      <input
        v-model="word"
        type="search"
        class="form-control"
        aria-label="Find a key"
        placeholder="Find a key: archive, undo, tag"
      />
      <span class="note">What works on this page now comes first; the rest is grey.</span>
    </p>
    <div class="keys-groups">
      <section v-for="group in groups" :key="group.title">
        <h3>{{ group.title }}</h3>
        <dl class="keys">
          <div v-for="line in group.lines" :key="line.name" :class="{ resting: !line.now }">
            <dt>
              <template v-for="(key, number) in line.keys" :key="key">
                <span v-if="number" aria-hidden="true"> or </span><kbd>{{ keyName(key) }}</kbd>
              </template>
            </dt>
            <dd>{{ line.title }}</dd>
          </div>
        </dl>
      </section>
      <p v-if="!groups.length" class="note">No key is about that.</p>
    </div>
  </BModal>
</template>
