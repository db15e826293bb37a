<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { computed, nextTick, onUnmounted, ref, watch } from 'vue'
import type { Opened } from '../api/client'
import { appearance } from '../composables/settings'
import { sought } from '../composables/short'
import { seekIn } from '../lib/seek'
import AttachmentList from './AttachmentList.vue'
import InvitationCard from './InvitationCard.vue'
import KeyCap from './KeyCap.vue'

const props = defineProps<{ number: number; opened: Opened; pictures: boolean }>()
const emit = defineEmits<{ pictures: []; alwaysPictures: [] }>()

const TALLEST = 20_000
const frame = ref<HTMLIFrameElement | null>(null)
const inside = ref<HTMLElement | null>(null)
const body = ref<HTMLElement | null>(null)
const height = ref('320px')
const address = computed(() => `/api/messages/${props.number}/html${props.pictures ? '?pictures=true' : ''}`)
const empty = computed(() => !props.opened.passages.some((one) => one.text.trim()))

watch(
  () => props.number,
  () => (height.value = '320px'),
)
watch(() => appearance.value.textSize, loaded)
watch(sought, () => void nextTick(seek), { immediate: true })
useResizeObserver(inside, fit)
onUnmounted(() => (inside.value = null))

/** The frame has no scripts of its own: its size of text and its height are set from here. */
function loaded(): void {
  const page = frame.value?.contentDocument
  if (!page?.body) return
  page.documentElement.style.setProperty('zoom', `${appearance.value.textSize}%`)
  inside.value = page.body
  page.addEventListener('keydown', relay)
  fit()
  seek()
}

/** Brings a sentence of this message into sight that is sought. */
function seek(): void {
  const one = sought.value
  if (one?.message !== props.number) return
  const root = props.opened.has_html ? frame.value?.contentDocument?.body : body.value
  if (!root) return
  sought.value = null
  if (!seekIn(root, one.text)) body.value?.scrollIntoView({ block: 'start' })
  else if (props.opened.has_html) frame.value?.scrollIntoView({ block: 'nearest' })
}

/** Keys pressed while the message has the focus are the page's as well. */
function relay(event: KeyboardEvent): void {
  const copy = new KeyboardEvent('keydown', event)
  if (frame.value?.dispatchEvent(copy) === false) event.preventDefault()
}

function fit(): void {
  const page = frame.value?.contentDocument?.documentElement
  if (page) height.value = `${Math.min(TALLEST, page.scrollHeight + 8)}px`
}
</script>

<template>
  <div ref="body" class="message-body">
    <InvitationCard v-if="opened.invitation" :invitation="opened.invitation" :number="number" />
    <AttachmentList v-if="opened.parts.length" :number="number" :parts="opened.parts" />
    <p v-if="opened.blocked && !pictures" class="reading-blocked">
      {{ opened.blocked }} {{ opened.blocked === 1 ? 'picture' : 'pictures' }} from elsewhere not loaded.
      <button type="button" class="quiet-button" data-act="pictures" @click="emit('pictures')">
        Load <KeyCap of="pictures" />
      </button>
      <button
        v-if="opened.sender.address && !opened.warnings.length"
        type="button"
        class="quiet-button"
        @click="emit('alwaysPictures')"
      >
        Always from this sender
      </button>
    </p>
    <iframe
      v-if="opened.has_html"
      ref="frame"
      class="reading-frame"
      :style="{ height }"
      :src="address"
      sandbox="allow-same-origin allow-popups allow-popups-to-escape-sandbox"
      title="Text of the message"
      @load="loaded"
    />
    <div v-else class="reading-text" dir="auto" tabindex="-1">
      <template v-for="(passage, index) in opened.passages" :key="index">
        <details v-if="passage.quoted" class="reading-quoted">
          <summary>quoted text</summary>
          <div>{{ passage.text }}</div>
        </details>
        <div v-else>{{ passage.text }}</div>
      </template>
      <template v-if="empty">(no text)</template>
    </div>
  </div>
</template>
