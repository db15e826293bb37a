<script setup lang="ts">
import { onClickOutside } from '@vueuse/core'
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue'
import { useCombobox } from '../composables/combobox'
import { useUnderstood } from '../composables/search'

const props = defineProps<{ line: string; form: boolean }>()
const emit = defineEmits<{ go: [line: string]; form: [] }>()

const typed = ref(props.line)
const choosing = ref(false)
const field = useTemplateRef<HTMLInputElement>('field')
const box = useTemplateRef<HTMLElement>('box')
const understood = useUnderstood(typed)
const suggestions = computed(() => (choosing.value ? (understood.value?.suggestions ?? []) : []))
const words = computed(() => understood.value?.problem || understood.value?.sentence || '')

watch(
  () => props.line,
  (now) => (typed.value = now),
)
onMounted(() => {
  if (!props.line) field.value?.focus()
})
onClickOutside(box, () => (choosing.value = false))

function take(line: string): void {
  typed.value = line
  choosing.value = !line.endsWith(' ')
  field.value?.focus()
}

const {
  key,
  field: offering,
  list,
  option,
} = useCombobox(suggestions, {
  take: (one) => take(one.line),
  close: () => (choosing.value = false),
})

function enter(): void {
  choosing.value = false
  emit('go', typed.value)
}

function press(event: KeyboardEvent): void {
  if (event.key === 'ArrowDown') choosing.value = true
  // Tab leaves the field here: a search is often finished with what is typed.
  if (event.key !== 'Tab' && key(event)) return
  if (event.key === 'Escape') {
    event.preventDefault()
    field.value?.blur()
  }
}
</script>

<template>
  <form ref="box" class="search-line" role="search" @submit.prevent="enter">
    <input
      ref="field"
      v-model="typed"
      type="text"
      class="search-field"
      v-bind="offering"
      maxlength="2000"
      aria-label="Search line"
      aria-describedby="search-understood"
      @input="choosing = true"
      @keydown="press"
    />
    <button type="submit" class="plain-button">Search</button>
    <button type="button" class="quiet-button" :aria-expanded="form" @click="emit('form')">
      {{ form ? 'Hide the form' : 'Form' }}
    </button>
    <ul v-if="suggestions.length" class="search-suggestions" v-bind="list" aria-label="Ways to go on">
      <li
        v-for="(one, index) in suggestions"
        :key="one.shown"
        v-bind="option(index)"
        @mousedown.prevent="take(one.line)"
      >
        <span class="suggestion-line">{{ one.shown }}</span>
        <bdi class="suggestion-about">{{ one.about }}</bdi>
      </li>
    </ul>
    <p
      id="search-understood"
      class="search-understood"
      :class="{ problem: understood?.problem }"
      aria-live="polite"
    >
      {{ words }}
      <span v-for="hint in understood?.hints ?? []" :key="hint" class="search-hint">{{ hint }}</span>
    </p>
  </form>
</template>
