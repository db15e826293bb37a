<script setup lang="ts">
import { onMounted, ref, useTemplateRef, watch } from 'vue'
import LineField from './LineField.vue'

const props = defineProps<{ line: string; form: boolean }>()
const emit = defineEmits<{ go: [line: string]; form: [] }>()

const typed = ref(props.line)
const field = useTemplateRef<InstanceType<typeof LineField>>('field')

watch(
  () => props.line,
  (now) => (typed.value = now),
)
onMounted(() => {
  if (!props.line) field.value?.focus()
})
</script>

<template>
  <form class="search-line" role="search" @submit.prevent="emit('go', typed)">
    <LineField ref="field" v-model="typed" label="Search line">
      <button type="submit" class="plain-button">Search</button>
      <button type="button" class="quiet-button" :aria-expanded="form" @click="emit('form')">
        {{ form ? 'Hide the form' : 'Form' }}
      </button>
    </LineField>
  </form>
</template>
