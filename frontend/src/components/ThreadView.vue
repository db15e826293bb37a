<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { client, unwrap, type Message } from '../api/client'
import { appearance } from '../composables/settings'
import { sought } from '../composables/short'
import ThreadList from './ThreadList.vue'

const props = defineProps<{ number: number }>()
const emit = defineEmits<{ open: [number: number] }>()

const EARLIER = 5
const expanded = reactive(new Set<number>())
const every = ref(false)
const { data } = useQuery({
  queryKey: computed(() => ['thread', props.number]),
  queryFn: () =>
    unwrap(client.GET('/api/messages/{number}/thread', { params: { path: { number: props.number } } })),
})
const thread = computed<Message[]>(() => (appearance.value.threads ? (data.value ?? []) : []))
const here = computed(() => thread.value.findIndex((one) => one.id === props.number))
const before = computed(() => thread.value.slice(0, Math.max(0, here.value)))
const earlier = computed(() => (every.value ? before.value : before.value.slice(-EARLIER)))
const later = computed(() => (here.value < 0 ? [] : thread.value.slice(here.value + 1)))

watch(
  [() => props.number, data],
  ([number, found], [was]) => {
    if (number !== was) expanded.clear()
    for (const one of found ?? []) if (!one.seen && one.id !== number) expanded.add(one.id)
  },
  { immediate: true },
)

watch(sought, (one) => {
  if (!one || one.message === props.number || !thread.value.some(({ id }) => id === one.message)) return
  every.value = true
  expanded.add(one.message)
})

function toggle(one: Message): void {
  if (!expanded.delete(one.id)) expanded.add(one.id)
}
</script>

<template>
  <ThreadList
    aria-label="Earlier in this thread"
    :messages="earlier"
    :expanded="expanded"
    @toggle="toggle"
    @open="(number) => emit('open', number)"
  >
    <template v-if="before.length > earlier.length" #before>
      <button type="button" class="quiet-button" @click="every = true">
        {{ before.length - earlier.length }} earlier messages
      </button>
    </template>
  </ThreadList>
  <slot />
  <ThreadList
    aria-label="Later in this thread"
    :messages="later"
    :expanded="expanded"
    @toggle="toggle"
    @open="(number) => emit('open', number)"
  />
</template>
