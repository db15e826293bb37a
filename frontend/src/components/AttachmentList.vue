<script setup lang="ts">
import { ref, watch } from 'vue'
import { client, unwrap, type Part } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { bytes } from '../lib/time'

const props = defineProps<{ number: number; parts: readonly Part[] }>()

const PICTURES = ['image/png', 'image/jpeg', 'image/gif', 'image/webp']
const shown = ref<Part | null>(null)
const text = ref('')

watch(
  () => props.number,
  () => (shown.value = null),
)

const address = (part: Part) => `/api/messages/${props.number}/parts/${part.path}`
const isPicture = (part: Part) => PICTURES.includes(part.media_type)
const isText = (part: Part) => part.media_type.startsWith('text/') && part.media_type !== 'text/calendar'

const { answer } = useAttempt((why) => (text.value = why))

async function toggle(part: Part): Promise<void> {
  if (shown.value?.path === part.path) {
    shown.value = null
    return
  }
  text.value = ''
  shown.value = part
  if (!isText(part)) return
  const params = { path: { number: props.number, path: part.path } }
  const found = await answer(() => unwrap(client.GET('/api/messages/{number}/parts/{path}/text', { params })))
  if (found) text.value = found.cut ? `${found.text}\n\nThe rest is in the file.` : found.text
}
</script>

<template>
  <div class="attachments">
    <ul class="reading-parts" aria-label="Attachments">
      <li v-for="part in parts" :key="part.path">
        <bdi class="part-name">{{ part.name || part.media_type }}</bdi>
        <span class="part-about">{{ part.media_type }}, {{ bytes(part.size) }}</span>
        <button
          v-if="isPicture(part) || isText(part)"
          type="button"
          class="quiet-button"
          :aria-expanded="shown?.path === part.path"
          @click="toggle(part)"
        >
          {{ shown?.path === part.path ? 'Hide' : 'Show' }}
        </button>
        <a
          v-if="part.media_type === 'application/pdf'"
          :href="`${address(part)}?view=true`"
          target="_blank"
          rel="noopener noreferrer"
          >Open</a
        >
        <a :href="address(part)" :download="part.name">Save</a>
      </li>
    </ul>
    <div v-if="shown" class="part-shown">
      <img v-if="isPicture(shown)" :src="address(shown)" :alt="shown.name || 'attached picture'" />
      <pre v-else>{{ text || 'Opening' }}</pre>
    </div>
  </div>
</template>
