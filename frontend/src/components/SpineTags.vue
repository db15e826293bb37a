<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { run } from '../composables/actions'
import { useQueues } from '../composables/queues'
import { folded } from '../composables/settings'
import { draggedTag, tagLine, useTags } from '../composables/tags'
import SpineSection from './SpineSection.vue'

const route = useRoute()
const { all: every } = useTags()
const { all: queues } = useQueues()
/** Those that are states of a queue stand there. */
const states = computed(() => queues.value.flatMap((one) => one.states.map(({ tag }) => tag)))
const all = computed(() => every.value.filter((one) => !states.value.includes(one.id)))
const over = ref('')
const line = computed(() => (route.name === 'search' ? String(route.query.line ?? '').trim() : ''))

function dropped(name: string): void {
  over.value = ''
  run('drop-tag', name)
}

function dragged(event: DragEvent, name: string): void {
  event.dataTransfer?.setData('text/plain', name)
  draggedTag.value = name
}
</script>

<template>
  <SpineSection v-model:folded="folded.tags" title="Tags" class="spine-tags">
    <template #beside>
      <RouterLink to="/tags" aria-label="All about tags" title="All about tags">…</RouterLink>
    </template>
    <li v-for="tag in all" :key="tag.id" :style="{ paddingLeft: `${Math.min(tag.depth, 3) * 6}px` }">
      <RouterLink
        :to="{ name: 'search', query: { line: tagLine(tag.name), order: 'time' } }"
        class="tag"
        :class="{ here: line === tagLine(tag.name), over: over === tag.name }"
        :data-tone="tag.tone"
        :data-tag="tag.name"
        :title="`${tag.name}, ${tag.total} messages`"
        draggable="true"
        @dragstart="dragged($event, tag.name)"
        @dragend="draggedTag = ''"
        @dragover.prevent="over = draggedTag ? '' : tag.name"
        @dragleave="over = ''"
        @drop.prevent="dropped(tag.name)"
        ><bdi>{{ tag.name }}</bdi
        ><span v-if="tag.total" class="spine-count">{{ tag.total.toLocaleString() }}</span></RouterLink
      >
    </li>
    <li v-if="!all.length" class="spine-none">none yet</li>
  </SpineSection>
</template>
