<script setup lang="ts">
import { computed } from 'vue'
import type { CircleGiven } from '../api/client'
import { languagesLeft, LANGUAGES, WHO } from '../lib/away'
import LineField from './LineField.vue'

/** Some people, and what they are told. */
const circle = defineModel<CircleGiven>({ required: true })
const props = defineProps<{ at: number; only: boolean; languages: readonly string[] }>()
const emit = defineEmits<{ out: []; up: [] }>()

const left = computed(() => languagesLeft(circle.value, props.languages))
const told = computed(() => Object.keys(circle.value.texts).length > 0)

function set(change: Partial<CircleGiven>): void {
  circle.value = { ...circle.value, ...change }
}

function say(language: string, text: string): void {
  set({ texts: { ...circle.value.texts, [language]: text } })
}

function unsay(language: string): void {
  set({ texts: Object.fromEntries(Object.entries(circle.value.texts).filter(([one]) => one !== language)) })
}
</script>

<template>
  <li class="away-circle">
    <div class="away-who">
      <span class="away-number">{{ at + 1 }}</span>
      <input
        :value="circle.name"
        class="form-control"
        maxlength="60"
        :aria-label="`Name of circle ${at + 1}`"
        @input="set({ name: ($event.target as HTMLInputElement).value })"
      />
      <select
        :value="circle.who"
        class="form-select"
        :aria-label="`Who belongs to circle ${at + 1}`"
        @change="set({ who: ($event.target as HTMLSelectElement).value as CircleGiven['who'] })"
      >
        <option v-for="(words, who) in WHO" :key="who" :value="who">{{ words }}</option>
      </select>
      <button v-if="at" type="button" class="quiet-button" @click="emit('up')">Up</button>
      <button v-if="!only" type="button" class="quiet-button" @click="emit('out')">Remove</button>
    </div>
    <LineField
      v-if="circle.who === 'line'"
      :model-value="circle.line ?? ''"
      :label="`Line of circle ${at + 1}`"
      placeholder="from:@domain, tag:…"
      @update:model-value="set({ line: $event })"
    />
    <p v-if="!told" class="note">
      No reply is sent.
      <button type="button" class="quiet-button" @click="say('', '')">Write a text</button>
    </p>
    <div v-for="(text, language) in circle.texts" :key="language" class="away-text">
      <label :for="`away-${at}-${language}`">
        {{
          Object.keys(circle.texts).length > 1
            ? `In ${LANGUAGES[language] ?? language}`
            : 'They get this reply'
        }}
      </label>
      <textarea
        :id="`away-${at}-${language}`"
        :value="text"
        class="form-control"
        rows="3"
        dir="auto"
        @input="say(String(language), ($event.target as HTMLTextAreaElement).value)"
      />
      <button type="button" class="quiet-button" @click="unsay(String(language))">
        {{ language === '' ? 'Send no reply' : 'Remove' }}
      </button>
    </div>
    <p v-if="told && left.length" class="away-languages">
      Also in
      <button
        v-for="one in left"
        :key="one"
        type="button"
        class="quiet-button"
        @click="say(one, circle.texts[''] ?? '')"
      >
        {{ LANGUAGES[one] ?? one }}
      </button>
    </p>
  </li>
</template>
