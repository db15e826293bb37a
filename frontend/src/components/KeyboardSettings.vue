<script setup lang="ts">
import { computed, ref } from 'vue'
import { chosenKeys, singleKeys } from '../composables/settings'
import { ACTIONS, assigned, keyName, keyOf, keysOf, type Action } from '../lib/actions'

const HELD = ['Shift', 'Control', 'Alt', 'Meta', 'CapsLock', 'Dead', 'Tab']
const waiting = ref('')
const said = ref('')
const changed = computed(() => Object.keys(chosenKeys.value).length > 0)
const shown = (action: Action) => keysOf(action, chosenKeys.value).map(keyName).join(' or ')

function listen(action: Action): void {
  waiting.value = waiting.value === action.name ? '' : action.name
  said.value = waiting.value ? `Press the new key for “${action.title}”; Esc keeps the old one.` : ''
}

function pressed(event: KeyboardEvent, action: Action): void {
  if (waiting.value !== action.name || HELD.includes(event.key)) return
  event.preventDefault()
  event.stopPropagation()
  waiting.value = ''
  if (event.key === 'Escape') {
    said.value = ''
    return
  }
  const key = keyOf(event)
  const loser = ACTIONS.find((one) => one !== action && keysOf(one, chosenKeys.value).includes(key))
  chosenKeys.value = assigned(chosenKeys.value, action.name, key)
  said.value = loser
    ? `${keyName(key)} now does “${action.title}”, and no longer “${loser.title}”.`
    : `${keyName(key)} now does “${action.title}”.`
}

function reset(): void {
  chosenKeys.value = {}
  said.value = 'All keys are as they came.'
}
</script>

<template>
  <div class="settings settings-keys">
    <h2>Keyboard</h2>
    <BFormCheckbox v-model="singleKeys"
      >Single letters act as keys (a, s, d, f, j, k and the others)</BFormCheckbox
    >
    <section aria-label="Choose other keys">
      <h3>Choose other keys</h3>
      <p class="note" role="status">{{ said || 'Press a key’s button, then the key you want.' }}</p>
      <button v-if="changed" type="button" class="plain-button" @click="reset">All keys as they came</button>
      <ul class="key-list">
        <li v-for="action in ACTIONS" :key="action.name">
          <button
            type="button"
            class="key-button"
            :class="{ waiting: waiting === action.name }"
            :data-key-of="action.name"
            :aria-label="`Key for ${action.title}: ${shown(action) || 'none'}`"
            @click="listen(action)"
            @keydown="pressed($event, action)"
          >
            {{ waiting === action.name ? '…' : shown(action) || 'none' }}
          </button>
          <span>{{ action.title }}</span>
        </li>
      </ul>
    </section>
  </div>
</template>
