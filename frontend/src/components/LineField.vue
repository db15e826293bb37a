<script setup lang="ts">
import { onClickOutside } from '@vueuse/core'
import { computed, ref, toRef, useTemplateRef } from 'vue'
import { useCombobox } from '../composables/combobox'
import { useUnderstood } from '../composables/search'

/** A search line being written: ways to go on below the field, and what is understood. */
const line = defineModel<string>({ required: true })
defineProps<{ label: string; id?: string; placeholder?: string }>()

const choosing = ref(false)
const field = useTemplateRef<HTMLInputElement>('field')
const box = useTemplateRef<HTMLElement>('box')
const understood = useUnderstood(toRef(() => line.value))
const suggestions = computed(() => (choosing.value ? (understood.value?.suggestions ?? []) : []))
const words = computed(() => understood.value?.problem || understood.value?.sentence || '')
onClickOutside(box, () => (choosing.value = false))

function take(wanted: string): void {
  line.value = wanted
  choosing.value = !wanted.endsWith(' ')
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

function press(event: KeyboardEvent): void {
  if (event.key === 'ArrowDown') choosing.value = true
  // Tab leaves the field here: a line is often finished with what is typed.
  if (event.key !== 'Tab' && key(event)) return
  if (event.key === 'Enter') choosing.value = false
  if (event.key === 'Escape') {
    event.preventDefault()
    field.value?.blur()
  }
}

defineExpose({ focus: () => field.value?.focus() })
</script>

<template>
  <div ref="box" class="line-box">
    <div class="line-row">
      <input
        :id="id"
        ref="field"
        v-model="line"
        type="text"
        class="search-field"
        v-bind="offering"
        maxlength="2000"
        :placeholder="placeholder"
        :aria-label="id ? undefined : label"
        :aria-describedby="`${list.id}-understood`"
        @input="choosing = true"
        @keydown="press"
      />
      <slot />
    </div>
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
      :id="`${list.id}-understood`"
      class="search-understood"
      :class="{ problem: understood?.problem }"
      aria-live="polite"
    >
      {{ words }}
      <span v-for="hint in understood?.hints ?? []" :key="hint" class="search-hint">{{ hint }}</span>
    </p>
  </div>
</template>
