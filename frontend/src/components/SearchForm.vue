<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Operator } from '../api/client'
import { usePlaces } from '../composables/places'
import { useOperators, useUnderstood } from '../composables/search'
import { useTags } from '../composables/tags'
import { fieldsOf, lineOf } from '../lib/line'

const props = defineProps<{ line: string }>()
const emit = defineEmits<{ go: [line: string] }>()

const { places } = usePlaces()
const { all: tags } = useTags()
const operators = useOperators()
const understood = useUnderstood(computed(() => props.line))
const fields = ref<Record<string, string>>({})
const written = computed(() =>
  lineOf([
    { operator: '', value: fields.value[''] ?? '' },
    ...operators.value.map(({ name }) => ({ operator: name, value: fields.value[name] ?? '' })),
  ]),
)

watch(
  [understood, operators],
  ([now, all]) => {
    const empty = Object.fromEntries(all.map(({ name }) => [name, '']))
    fields.value = { ...empty, ...fieldsOf(now?.terms ?? []) }
  },
  { immediate: true },
)

/** What an operator offers to choose from, where its values are known. */
function offered(operator: Operator): string[] {
  if (operator.takes === 'tag') return tags.value.map((one) => one.name)
  return operator.takes === 'bucket' ? places.value.map((one) => one.title) : operator.choices
}
</script>

<template>
  <form class="search-form" aria-label="Search form" @submit.prevent="emit('go', written)">
    <label class="form-words">
      <span>Words anywhere</span>
      <input v-model="fields['']" type="text" />
    </label>
    <label v-for="operator in operators" :key="operator.name" :title="operator.title">
      <span>{{ operator.label }}</span>
      <select v-if="offered(operator).length" v-model="fields[operator.name]">
        <option value="">any</option>
        <option v-for="one in offered(operator)" :key="one" :value="one.toLowerCase()">{{ one }}</option>
      </select>
      <input
        v-else
        v-model="fields[operator.name]"
        type="text"
        :placeholder="operator.example.split(':')[1]?.replaceAll('&quot;', '')"
      />
    </label>
    <p class="form-line">
      <code>{{ written || 'all mail' }}</code>
      <button type="submit" class="plain-button">Search with this line</button>
    </p>
  </form>
</template>
