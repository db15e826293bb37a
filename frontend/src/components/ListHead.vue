<script setup lang="ts">
import { computed } from 'vue'
import type { Message, Order, Place } from '../api/client'
import { run } from '../composables/actions'
import { appearance, order } from '../composables/settings'
import type { Ranked } from '../composables/sources'
import { placeWords } from '../lib/explain'
import WhatIsThis from './WhatIsThis.vue'

const props = defineProps<{
  place?: Place
  picked: number
  unreadOnly: boolean
  groupable: boolean
  /** Whether it can be shown in trays. */
  trays: boolean
  /** A message that stands there. */
  example?: Message
}>()
/** The order of the list; a bucket for what can wait may be shown by sender or list instead, which it keeps. */
const shown = computed<string>({
  get: () => {
    if (props.trays && appearance.value.inTrays) return 'trays'
    const ranked = props.groupable && appearance.value.bySource[props.place?.name ?? '']
    return ranked ? `source-${ranked}` : order.value
  },
  set: (wanted) => {
    if (props.trays) appearance.value.inTrays = wanted === 'trays'
    if (wanted === 'trays') return
    const name = props.place?.name ?? ''
    const others = Object.fromEntries(
      Object.entries(appearance.value.bySource).filter(([bucket]) => bucket !== name),
    )
    if (wanted.startsWith('source-'))
      appearance.value.bySource = { ...others, [name]: wanted.slice('source-'.length) as Ranked }
    else {
      appearance.value.bySource = others
      order.value = wanted as Order
    }
  },
})
const emit = defineEmits<{ clear: []; unread: [only: boolean] }>()
</script>

<template>
  <div class="list-head">
    <input
      type="checkbox"
      class="form-check-input list-all"
      :checked="picked > 0"
      :indeterminate="picked > 0 && picked < (place?.total ?? 0)"
      aria-label="Select all of this list"
      title="Select all"
      @change="picked ? emit('clear') : run('select-all')"
    />
    <h2>{{ place?.title ?? 'Mail' }}</h2>
    <WhatIsThis v-if="place" :of="place.title" :text="placeWords(place, example)" />
    <span v-if="picked" class="list-picked">
      {{ picked }} selected
      <button type="button" class="quiet-button" @click="emit('clear')">clear</button>
    </span>
    <span v-else class="list-count">
      {{ place?.total ?? 0 }}<span class="list-word">&nbsp;messages</span>, {{ place?.unread ?? 0 }} unread
    </span>
    <label class="list-order">
      <span class="visually-hidden">What is shown</span>
      <select
        :value="unreadOnly"
        title="What is shown"
        @change="emit('unread', ($event.target as HTMLSelectElement).value === 'true')"
      >
        <option :value="false">all</option>
        <option :value="true">unread</option>
      </select>
    </label>
    <label>
      <span class="visually-hidden">Order</span>
      <select v-model="shown" title="Order" @change="($event.target as HTMLSelectElement).blur()">
        <option v-if="trays" value="trays">in trays</option>
        <option value="importance">by importance</option>
        <option value="time">newest first</option>
        <template v-if="groupable">
          <option value="source-total">by sender or list, most first</option>
          <option value="source-newest">by sender or list, newest first</option>
        </template>
      </select>
    </label>
  </div>
</template>
