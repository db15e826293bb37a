<script setup lang="ts">
import { computed, ref, useId } from 'vue'
import { client, unwrap } from '../api/client'

const people = defineModel<string>({ required: true })
defineProps<{ label: string }>()

const id = useId()
const offered = ref<{ name: string; address: string }[]>([])
const at = ref(-1)
const input = ref<HTMLInputElement>()
const last = computed(() => /(?:^|[,;])\s*([^,;]*)$/.exec(people.value)?.[1] ?? '')
let asked = 0

async function offer(): Promise<void> {
  at.value = -1
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

function key(event: KeyboardEvent): void {
  if (!offered.value.length) return
  const count = offered.value.length
  if (event.key === 'ArrowDown') at.value = (at.value + 1) % count
  else if (event.key === 'ArrowUp') at.value = (at.value + count - 1) % count
  else if (event.key === 'Escape') offered.value = []
  else if (event.key === 'Enter' || event.key === 'Tab') {
    const one = offered.value[at.value]
    if (!one) return
    take(one)
  } else return
  event.preventDefault()
}
</script>

<template>
  <div class="people">
    <label :for="id">{{ label }}</label>
    <input
      :id="id"
      ref="input"
      v-model="people"
      role="combobox"
      autocomplete="off"
      spellcheck="false"
      aria-autocomplete="list"
      :aria-expanded="offered.length > 0"
      :aria-controls="`${id}-list`"
      :aria-activedescendant="at >= 0 ? `${id}-${at}` : undefined"
      @input="offer"
      @keydown="key"
      @blur="offered = []"
    />
    <ul
      :id="`${id}-list`"
      class="people-offered"
      role="listbox"
      :aria-label="`People for ${label}`"
      :hidden="!offered.length"
    >
      <li
        v-for="(one, index) in offered"
        :id="`${id}-${index}`"
        :key="one.address"
        role="option"
        :aria-selected="index === at"
        @mousedown.prevent="take(one)"
      >
        <bdi>{{ one.name || one.address }}</bdi>
        <span v-if="one.name" class="note">{{ one.address }}</span>
      </li>
    </ul>
  </div>
</template>
