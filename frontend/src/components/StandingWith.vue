<script setup lang="ts">
import { computed, toRef } from 'vue'
import { sought, useStanding } from '../composables/short'
import { bytes, exact, near } from '../lib/time'
import { subjectOf } from '../lib/words'

const props = defineProps<{ address: string }>()
const emit = defineEmits<{ open: [number: number] }>()

const { data, error, isPending } = useStanding(toRef(props, 'address'))
const parts = computed(() => {
  const told = data.value
  if (!told) return []
  const asked = told.you.map((one) => ({ ...one, about: one.promised ? 'you promised' : '' }))
  return [
    { title: 'Open on your side', lines: asked },
    {
      title: 'Open on theirs',
      lines: told.they.map((one) => ({ ...one, about: one.missed ? 'no answer in time' : '' })),
    },
    { title: 'They promised', lines: told.promised.map((one) => ({ ...one, about: '' })) },
    { title: 'Times to come', lines: told.dates.map((one) => ({ ...one, about: one.shown })) },
  ].filter((one) => one.lines.length)
})

function show(message: number, text: string): void {
  sought.value = { message, text }
  emit('open', message)
}
</script>

<template>
  <section class="short" aria-label="Where things stand">
    <p v-if="error" class="page-problem" role="alert">{{ error.message }}</p>
    <p v-else-if="isPending" class="note">Reading</p>
    <template v-else-if="data">
      <h3>
        Where things stand with <bdi>{{ data.name }}</bdi>
      </h3>
      <p class="note">
        <template v-if="data.last"
          >You last wrote
          <button type="button" class="quiet-button" @click="emit('open', data.last.id)">
            {{ near(data.last.time) }}</button>;
          {{ data.since === 1 ? 'one message' : `${data.since} messages` }} since.</template
        >
        <template v-else
          >You never wrote to them; {{ data.since === 1 ? 'one message' : `${data.since} messages` }} in
          ninety days.</template
        >
      </p>
      <template v-for="part in parts" :key="part.title">
        <h4>{{ part.title }}</h4>
        <p v-for="(line, at) in part.lines" :key="at" class="short-line">
          <button
            type="button"
            :data-line="line.sentence || line.message.subject"
            :title="`“${subjectOf(line.message.subject)}”, ${exact(line.message.time)}`"
            @click="show(line.message.id, line.sentence)"
          >
            <bdi>{{ line.sentence || subjectOf(line.message.subject) }}</bdi>
          </button>
          <span v-if="line.about" class="short-does">{{ line.about }}</span>
          <time class="note">{{ near(line.message.time) }}</time>
        </p>
      </template>
      <template v-if="data.files.length">
        <h4>Files since then</h4>
        <p v-for="(one, at) in data.files" :key="at" class="short-line">
          <button type="button" @click="emit('open', one.message.id)">
            <bdi>{{ one.part.name || one.part.media_type }}</bdi>
          </button>
          <span class="note">{{ bytes(one.part.size) }}, {{ near(one.message.time) }}</span>
        </p>
      </template>
      <p v-if="!parts.length && !data.files.length" class="note">Nothing is open either way.</p>
    </template>
  </section>
</template>
