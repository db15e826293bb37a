<script setup lang="ts">
import { onClickOutside, useEventListener } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, useTemplateRef } from 'vue'
import type { Message } from '../api/client'
import { useFocus } from '../composables/focus'
import { possible } from '../composables/actions'
import { usePlaces } from '../composables/places'
import { ANSWERS, menuAt, type MenuAt } from '../composables/rowMenu'
import type { ActionName } from '../lib/actions'
import { senderName, subjectOf } from '../lib/words'
import KeyCap from './KeyCap.vue'

/** What can be done with a row, or with what is open or selected: all of it by mouse and by touch. */
const props = defineProps<{
  at: MenuAt
  rows: readonly Message[]
  count: number
  /** Whether it is about one message, which can be answered. */
  answerable: boolean
  teachable: boolean
  quiet: boolean
}>()
const emit = defineEmits<{ act: [name: ActionName, argument?: string] }>()

interface Item {
  name: ActionName
  title: string
}

const MARGIN = 8
const { takers, putOf, titles } = usePlaces()
const panel = useTemplateRef<HTMLElement>('panel')
const always = ref(false)
const first = computed(() => props.rows[0])
const all = (test: (one: Message) => boolean) => props.rows.length > 0 && props.rows.every(test)
const can = (name: ActionName) => possible.value.some((one) => one.name === name)

const groups = computed<Item[][]>(() =>
  [
    props.answerable
      ? [
          { name: 'reply' as const, title: 'Reply' },
          { name: 'reply-all' as const, title: 'Reply all' },
          { name: 'forward' as const, title: 'Forward' },
        ]
      : [],
    [
      { name: 'flag' as const, title: all((one) => one.flagged) ? 'Remove the flag' : 'Flag' },
      { name: 'seen' as const, title: all((one) => one.seen) ? 'Mark unread' : 'Mark read' },
      { name: 'tag' as const, title: 'Tag …' },
      ...(props.rows.some((one) => one.tags.length)
        ? [{ name: 'untag' as const, title: 'Remove a tag …' }]
        : []),
    ],
    [
      props.quiet
        ? { name: 'back' as const, title: 'Put back' }
        : { name: 'archive' as const, title: 'Archive' },
      { name: 'file' as const, title: 'File in a folder …' },
      { name: 'trash' as const, title: 'Trash' },
    ],
    [
      { name: 'due' as const, title: 'Due …' },
      { name: 'park' as const, title: 'Park until …' },
      { name: 'await' as const, title: 'Reminder if no answer …' },
      { name: 'done' as const, title: 'Done' },
    ],
    [
      { name: 'select-sender' as const, title: 'Select all from this sender' },
      { name: 'make-rule' as const, title: 'Make a rule …' },
      { name: 'routine' as const, title: 'Do a routine …' },
    ],
  ]
    .map((group) => group.filter((one) => one.name in ANSWERS || can(one.name)))
    .filter((group) => group.length),
)
const place = ref({ left: `${props.at.x}px`, top: `${props.at.y}px` })

/** Stands where it was opened, and whole within the window. */
function settle(): void {
  const box = panel.value?.getBoundingClientRect()
  if (!box) return
  const left = Math.max(MARGIN, Math.min(props.at.x, window.innerWidth - box.width - MARGIN))
  const top = Math.max(MARGIN, Math.min(props.at.y, window.innerHeight - box.height - MARGIN))
  place.value = { left: `${left}px`, top: `${top}px` }
}

const items = () => [...(panel.value?.querySelectorAll<HTMLElement>('[role=menuitem]:not(:disabled)') ?? [])]

function go(by: number): void {
  const those = items()
  const here = those.findIndex((one) => one === document.activeElement)
  const next = here < 0 ? (by > 0 ? 0 : those.length - 1) : (here + by + those.length) % those.length
  those[next]?.focus()
}

const ENDS: Record<string, number> = { Home: 0, End: -1 }
const STEPS: Record<string, number> = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }

function press(event: KeyboardEvent): void {
  event.stopPropagation()
  if (event.key in STEPS) go(STEPS[event.key] ?? 0)
  else if (event.key in ENDS)
    items()
      .at(ENDS[event.key] ?? 0)
      ?.focus()
  else if (event.key === 'Escape' || event.key === 'Tab') close()
  else return
  event.preventDefault()
}

function close(): void {
  menuAt.value = null
}

function act(name: ActionName, argument?: string): void {
  emit('act', name, argument)
  close()
}

async function showAlways(): Promise<void> {
  always.value = !always.value
  await nextTick()
  settle()
}

onClickOutside(panel, close)
useEventListener(window, 'resize', close)
onMounted(settle)
useFocus(() => items()[0])
</script>

<template>
  <div
    ref="panel"
    class="row-menu"
    role="menu"
    :aria-label="count > 1 ? `${count} messages` : first ? `“${subjectOf(first.subject)}”` : 'Message'"
    :style="place"
    @keydown="press"
    @contextmenu.prevent
  >
    <p class="row-menu-head" role="presentation">
      <template v-if="count > 1">{{ count }} selected</template>
      <template v-else-if="first"
        ><bdi>{{ senderName(first) }}</bdi> <bdi class="note">{{ subjectOf(first.subject) }}</bdi></template
      >
    </p>
    <div v-if="teachable" class="row-menu-buckets" role="group" aria-label="Belongs in">
      <span aria-hidden="true">Belongs in</span>
      <button
        v-for="one in takers"
        :key="one.name"
        type="button"
        role="menuitem"
        :data-menu="`put ${one.name}`"
        @click="act('put', one.name)"
      >
        {{ one.title }} <KeyCap :of="putOf(one.name)" />
      </button>
    </div>
    <div v-if="teachable" class="row-menu-group" role="group" aria-label="Always">
      <button type="button" role="menuitem" :aria-expanded="always" data-menu="always" @click="showAlways">
        Always from this sender …
      </button>
      <div v-if="always" class="row-menu-buckets" role="group" aria-label="Always in">
        <button
          v-for="one in takers"
          :key="one.name"
          type="button"
          role="menuitem"
          :data-menu="`always ${one.name}`"
          @click="act('always', one.name)"
        >
          {{ one.title }}
        </button>
      </div>
      <button type="button" role="menuitem" data-menu="refuse" @click="act('refuse')">
        Refuse this sender: {{ titles.drain }}, always <KeyCap of="refuse" />
      </button>
    </div>
    <div v-for="(group, index) in groups" :key="index" class="row-menu-group" role="group">
      <button
        v-for="one in group"
        :key="one.name"
        type="button"
        role="menuitem"
        :data-menu="one.name"
        @click="act(one.name)"
      >
        {{ one.title }} <KeyCap :of="one.name" />
      </button>
    </div>
    <div v-if="count === 1 && first?.list_id" class="row-menu-group" role="group">
      <RouterLink
        :to="{ name: 'subscriptions', query: { of: `list:${first.list_id}` } }"
        role="menuitem"
        data-menu="unsubscribe"
        @click="close"
        >Unsubscribe …</RouterLink
      >
    </div>
  </div>
</template>
