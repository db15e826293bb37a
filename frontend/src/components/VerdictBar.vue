<script setup lang="ts">
import type { ActionName } from '../lib/actions'
import { computed } from 'vue'
import type { Message, Place, Reach } from '../api/client'
import { run } from '../composables/actions'
import { usePlaces } from '../composables/places'
import { openMenu } from '../composables/rowMenu'
import { useTeaching } from '../composables/teaching'
import { REACH_WORDS } from '../lib/words'
import EffectStrip from './EffectStrip.vue'
import KeyCap from './KeyCap.vue'

const props = defineProps<{
  count: number
  rows: readonly Message[]
  teachable: boolean
  takers: readonly Place[]
  quiet: boolean
  titles: Record<string, string>
  reaches: readonly Reach[]
}>()
const emit = defineEmits<{ put: [place: string] }>()

const { reach, effect, working } = useTeaching()
const { putOf } = usePlaces()
const standing = computed(() => (props.count === 1 ? props.rows[0]?.place : ''))
const seen = computed(() => props.rows.length > 0 && props.rows.every((one) => one.seen))
const flagged = computed(() => props.rows.length > 0 && props.rows.every((one) => one.flagged))
const filing = computed<{ name: ActionName; title: string }[]>(() => [
  ...(props.quiet
    ? [{ name: 'back' as const, title: 'Put back' }]
    : [{ name: 'archive' as const, title: 'Archive' }]),
  { name: 'file', title: 'File' },
  { name: 'due', title: 'Due' },
  { name: 'park', title: 'Park' },
  { name: 'flag', title: flagged.value ? 'Unflag' : 'Flag' },
  { name: 'seen', title: seen.value ? 'Unread' : 'Read' },
  { name: 'trash', title: 'Trash' },
])
</script>

<template>
  <footer class="verdict">
    <slot />
    <EffectStrip v-if="effect" :titles="titles" />
    <div v-if="count" class="verdict-row" role="group" aria-label="Verdict">
      <span class="verdict-label">{{ count > 1 ? `${count} belong in` : 'Belongs in' }}</span>
      <button
        v-for="place in takers"
        :key="place.name"
        type="button"
        class="verdict-button"
        :class="{ stands: place.name === standing }"
        :disabled="count === 0 || !teachable"
        :data-put="place.name"
        @click="emit('put', place.name)"
      >
        <KeyCap :of="putOf(place.name)" />{{ place.title }}
      </button>
      <label class="verdict-reach">
        <span class="visually-hidden">How far the lesson reaches</span>
        <select v-model="reach" :disabled="count === 0 || !teachable" title="How far the lesson reaches">
          <option v-for="one in reaches" :key="one" :value="one">{{ REACH_WORDS[one] }}</option>
        </select>
      </label>
      <span v-if="working" class="verdict-work">working</span>
    </div>
    <div v-if="count" class="filing-row" role="group" aria-label="Filing">
      <span class="filing-weigh">
        <button type="button" class="quiet-button" :disabled="!count || !teachable" @click="run('weigh-up')">
          <KeyCap of="weigh-up" /> matters more
        </button>
        <button
          type="button"
          class="quiet-button"
          :disabled="!count || !teachable"
          @click="run('weigh-down')"
        >
          <KeyCap of="weigh-down" /> less
        </button>
      </span>
      <button
        v-for="one in filing"
        :key="one.name"
        type="button"
        class="quiet-button"
        :disabled="!count"
        :data-act="one.name"
        @click="run(one.name)"
      >
        <KeyCap :of="one.name" /> {{ one.title }}
      </button>
      <button
        type="button"
        class="quiet-button"
        aria-haspopup="menu"
        data-act="menu"
        @click="openMenu($event, null)"
      >
        More …
      </button>
    </div>
  </footer>
</template>
