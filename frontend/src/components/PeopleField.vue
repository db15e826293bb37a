<script setup lang="ts">
import { computed, ref, useId } from 'vue'
import { client, unwrap } from '../api/client'
import { useCombobox } from '../composables/combobox'

const people = defineModel<string>({ required: true })
defineProps<{ label: string }>()

const id = useId()
const offered = ref<{ name: string; address: string }[]>([])
const input = ref<HTMLInputElement>()
const last = computed(() => /(?:^|[,;])\s*([^,;]*)$/.exec(people.value)?.[1] ?? '')
let asked = 0

async function offer(): Promise<void> {
  const start = last.value.trim()
  const mine = ++asked
  if (start.length < 2) {
    offered.value = []
    return
  }
  try {
    const found = await unwrap(client.GET('/api/correspondents', { params: { query: { start } } }))
    if (mine === asked) offered.value = found
  } catch {
    offered.value = []
  }
}

function written(one: { name: string; address: string }): string {
  return one.name ? `"${one.name.replace(/["\\]/g, '')}" <${one.address}>` : one.address
}

function take(one: { name: string; address: string }): void {
  people.value = `${people.value.slice(0, people.value.length - last.value.length)}${written(one)}, `
  offered.value = []
  input.value?.focus()
}

const {
  key: listKey,
  field,
  list,
  option,
} = useCombobox(offered, { take, close: () => (offered.value = []) })

/** Enter takes the person who is chosen, ends an address that stands whole, or takes the first who is offered: it never
 * sends the message. */
function key(event: KeyboardEvent): void {
  if (event.ctrlKey || event.metaKey || listKey(event) || event.key !== 'Enter') return
  event.preventDefault()
  const first = offered.value[0]
  if (/[^\s@]@[^\s@]+\.[^\s@]/.test(last.value)) {
    people.value = `${people.value.trimEnd()}, `
    offered.value = []
  } else if (first) take(first)
}
</script>

<template>
  <div class="people">
    <label :for="id">{{ label }}</label>
    <input
      :id="id"
      ref="input"
      v-model="people"
      v-bind="field"
      @input="offer"
      @keydown="key"
      @blur="offered = []"
    />
    <ul class="people-offered" v-bind="list" :aria-label="`People for ${label}`" :hidden="!offered.length">
      <li
        v-for="(one, index) in offered"
        :key="one.address"
        v-bind="option(index)"
        @mousedown.prevent="take(one)"
      >
        <bdi>{{ one.name || one.address }}</bdi>
        <span v-if="one.name" class="note">{{ one.address }}</span>
      </li>
    </ul>
  </div>
</template>
