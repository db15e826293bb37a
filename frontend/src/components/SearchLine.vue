<script setup lang="ts">
import { onClickOutside } from '@vueuse/core'
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue'
import { useUnderstood } from '../composables/search'

const props = defineProps<{ line: string; form: boolean }>()
const emit = defineEmits<{ go: [line: string]; form: [] }>()

const typed = ref(props.line)
const at = ref(-1)
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
watch(typed, () => (at.value = -1))
onMounted(() => {
  if (!props.line) field.value?.focus()
})
onClickOutside(box, () => (choosing.value = false))

function take(line: string): void {
  typed.value = line
  choosing.value = !line.endsWith(' ')
  field.value?.focus()
}

function enter(): void {
  const suggestion = suggestions.value[at.value]
  if (suggestion) {
    take(suggestion.line)
    return
  }
  choosing.value = false
  emit('go', typed.value)
}

function move(by: number): void {
  choosing.value = true
  at.value = Math.min(suggestions.value.length - 1, Math.max(-1, at.value + by))
}

function escape(): void {
  if (suggestions.value.length) choosing.value = false
  else field.value?.blur()
}
</script>

<template>
  <form ref="box" class="search-line" role="search" @submit.prevent="enter">
    <input
      ref="field"
      v-model="typed"
      type="text"
      class="search-field"
      role="combobox"
      autocomplete="off"
      spellcheck="false"
      maxlength="2000"
      aria-label="Search line"
      aria-controls="search-suggestions"
      aria-autocomplete="list"
      aria-describedby="search-understood"
      :aria-expanded="suggestions.length > 0"
      :aria-activedescendant="at >= 0 ? `suggestion-${at}` : undefined"
      @input="choosing = true"
      @keydown.down.prevent="move(1)"
      @keydown.up.prevent="move(-1)"
      @keydown.esc.prevent="escape"
    />
    <button type="submit" class="plain-button">Search</button>
    <button type="button" class="quiet-button" :aria-expanded="form" @click="emit('form')">
      {{ form ? 'Hide the form' : 'Form' }}
    </button>
    <ul
      v-if="suggestions.length"
      id="search-suggestions"
      class="search-suggestions"
      role="listbox"
      aria-label="Ways to go on"
    >
      <li
        v-for="(one, index) in suggestions"
        :id="`suggestion-${index}`"
        :key="one.shown"
        role="option"
        :aria-selected="index === at"
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
