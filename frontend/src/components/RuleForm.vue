<script setup lang="ts">
import { computed, onMounted, ref, useTemplateRef } from 'vue'
import type { Doing, Rule, RuleGiven } from '../api/client'
import { usePreview } from '../composables/rules'
import ActionList from './ActionList.vue'
import LineField from './LineField.vue'
import RulePreview from './RulePreview.vue'
import SearchForm from './SearchForm.vue'

/** A rule as it is written. */
const rule = defineModel<RuleGiven>({ required: true })
const props = defineProps<{
  /** The rule as it is kept, where it is. */
  kept: Rule | undefined
  doings: readonly Doing[]
  changed: boolean
  busy: boolean
  problem: string
  running: { done: number; of: number } | null
}>()
const emit = defineEmits<{ keep: []; run: []; remove: []; back: [] }>()

const field = useTemplateRef<InstanceType<typeof LineField>>('field')
const form = ref(false)
const preview = usePreview(rule)
const fresh = computed(() => {
  const sent = (one: Rule | RuleGiven | undefined) =>
    one?.enabled ? one.actions.filter(({ verb }) => verb === 'forward').map(({ target }) => target) : []
  const before = sent(props.kept)
  return sent(rule.value).filter((one) => one && !before.includes(one))
})
onMounted(() => {
  if (!props.kept) field.value?.focus()
})

function set(change: Partial<RuleGiven>): void {
  rule.value = { ...rule.value, ...change }
}

function take(line: string): void {
  set({ line })
  form.value = false
}
</script>

<template>
  <form
    class="rule-form"
    :aria-label="kept ? `Rule ${kept.name}` : 'New rule'"
    @submit.prevent="emit('keep')"
  >
    <p v-if="kept?.broken" class="rule-broken" role="alert">It rests: {{ kept.broken }}</p>
    <div class="rule-part">
      <span class="rule-step">When</span>
      <div class="rule-when">
        <select
          :value="rule.when"
          class="form-select"
          aria-label="When"
          @change="set({ when: ($event.target as HTMLSelectElement).value as RuleGiven['when'] })"
        >
          <option value="arrives">mail arrives</option>
          <option value="ages">it is older than</option>
        </select>
        <template v-if="rule.when === 'ages'">
          <input
            :value="rule.days"
            type="number"
            min="1"
            max="3650"
            class="form-control rule-days"
            aria-label="Days"
            @input="set({ days: Number(($event.target as HTMLInputElement).value) })"
          />
          days, counted from
          <select
            :value="rule.counted"
            class="form-select"
            aria-label="Counted from"
            @change="set({ counted: ($event.target as HTMLSelectElement).value as RuleGiven['counted'] })"
          >
            <option value="came">when it came</option>
            <option value="thread">the newest of its thread</option>
          </select>
          <label class="rule-check">
            <input
              type="checkbox"
              :checked="rule.last_of_day"
              @change="set({ last_of_day: !rule.last_of_day })"
            />
            the last of each day stays
          </label>
        </template>
      </div>
    </div>
    <div class="rule-part">
      <label class="rule-step" for="rule-line">Which mail</label>
      <div>
        <LineField
          id="rule-line"
          ref="field"
          :model-value="rule.line"
          label="Which mail"
          placeholder="as in a search: from:… subject:…"
          @update:model-value="set({ line: $event })"
        >
          <button type="button" class="quiet-button" :aria-expanded="form" @click="form = !form">
            {{ form ? 'Hide the form' : 'Form' }}
          </button>
        </LineField>
      </div>
    </div>
    <div class="rule-part">
      <label class="rule-step" for="rule-except">Except</label>
      <div>
        <LineField
          id="rule-except"
          :model-value="rule.excepted"
          label="Except"
          placeholder="none"
          @update:model-value="set({ excepted: $event })"
        />
      </div>
    </div>
    <div class="rule-part">
      <span class="rule-step">Then</span>
      <div>
        <ActionList
          :model-value="rule.actions"
          :doings="doings"
          from="its arrival"
          @update:model-value="set({ actions: $event })"
        />
        <label v-if="fresh.length" class="rule-check rule-forward">
          <input type="checkbox" :checked="rule.confirmed" @change="set({ confirmed: !rule.confirmed })" />
          A copy of each such message goes to {{ fresh.join(', ') }} from now on, without asking again
        </label>
      </div>
    </div>
    <div class="rule-part">
      <label class="rule-step" for="rule-name">Name</label>
      <div class="rule-when">
        <input
          id="rule-name"
          :value="rule.name"
          class="form-control"
          maxlength="80"
          :placeholder="rule.line.slice(0, 60) || 'a name'"
          @input="set({ name: ($event.target as HTMLInputElement).value })"
        />
        <button
          type="submit"
          class="plain-button"
          data-act="keep"
          :disabled="busy || !changed || !rule.line.trim()"
        >
          Save
        </button>
        <button v-if="changed" type="button" class="quiet-button" @click="emit('back')">Cancel</button>
        <template v-else-if="kept">
          <button
            type="button"
            class="plain-button"
            data-act="run"
            :disabled="busy || !!running"
            @click="emit('run')"
          >
            Run on what is here
          </button>
          <button
            type="button"
            class="quiet-button"
            data-act="remove"
            :disabled="busy"
            @click="emit('remove')"
          >
            Remove
          </button>
        </template>
      </div>
    </div>
    <p v-if="problem" class="rule-broken" role="alert">{{ problem }}</p>
    <div v-if="running" class="progress-line" role="status">
      <span>Running: {{ running.done.toLocaleString() }} of {{ running.of.toLocaleString() }}</span>
      <progress :value="running.done" :max="running.of" aria-label="Running the rule" />
    </div>
  </form>
  <SearchForm v-if="form" :line="rule.line" @go="take" />
  <RulePreview :told="preview" :rule="rule" :doings="doings" />
</template>
