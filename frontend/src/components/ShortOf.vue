<script setup lang="ts">
import { computed, toRef } from 'vue'
import { sought, useShort } from '../composables/short'
import { appearance } from '../composables/settings'
import { exact, near } from '../lib/time'
import { senderName } from '../lib/words'

const props = defineProps<{ number: number }>()

const { data, error, isPending } = useShort(
  toRef(props, 'number'),
  computed(() => appearance.value.threads),
)
const many = computed(() => (data.value?.length ?? 0) > 1)
</script>

<template>
  <section class="short" aria-label="The short of it">
    <h3>{{ many ? `The short of ${data?.length} messages` : 'The short of it' }}</h3>
    <p v-if="error" class="page-problem" role="alert">{{ error.message }}</p>
    <p v-else-if="isPending" class="note">Reading</p>
    <p v-else-if="!data?.length" class="note">There is no sentence that carries it.</p>
    <ol v-else>
      <li v-for="part in data" :key="part.message.id">
        <p v-if="many" class="short-who">
          <bdi>{{ part.own ? 'You' : senderName(part.message) }}</bdi>
          <time :title="exact(part.message.time)">{{ near(part.message.time) }}</time>
        </p>
        <p v-for="(line, at) in part.lines" :key="at" class="short-line">
          <button
            type="button"
            :data-line="line.text"
            title="Show where it stands"
            @click="sought = { message: part.message.id, text: line.text }"
          >
            <bdi>{{ line.text }}</bdi>
          </button>
          <span v-if="line.asks" class="short-does">asks</span>
          <span v-if="line.promises" class="short-does">promises</span>
          <span v-for="date in line.dates" :key="date" class="short-does">{{ date }}</span>
        </p>
      </li>
    </ol>
  </section>
</template>
