<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Opened } from '../api/client'
import { exact, near } from '../lib/time'
import { senderName } from '../lib/words'

const props = defineProps<{ opened: Opened }>()
const emit = defineEmits<{ vouch: [] }>()

const SHOWN = 6
const everyone = ref(false)
const message = computed(() => props.opened.message)
const checked = computed(() => {
  const results = props.opened.checks.filter((one) => one.believed)
  if (results.some((one) => one.words.includes('fails'))) return 'your mail server’s check failed'
  return results.some((one) => one.words.includes('(DKIM)') && one.words.includes('holds'))
    ? 'your mail server confirmed the sender'
    : ''
})
const vouchable = computed(
  () => !props.opened.vouched && props.opened.sender.address && message.value.decided_by !== 'own',
)

function people(list: Opened['to']): string {
  const named = list.map((one) => one.name || one.address)
  return everyone.value || named.length <= SHOWN ? named.join(', ') : named.slice(0, SHOWN).join(', ')
}
const hidden = computed(() =>
  everyone.value
    ? 0
    : [props.opened.to, props.opened.cc].reduce((sum, all) => sum + Math.max(0, all.length - SHOWN), 0),
)
</script>

<template>
  <p class="reading-who">
    <bdi class="reading-sender">{{ senderName(message) }}</bdi>
    <span v-if="opened.sender.name" class="reading-address">&lt;{{ opened.sender.address }}&gt;</span>
    <span v-if="opened.to.length">
      to <bdi>{{ people(opened.to) }}</bdi></span
    >
    <span v-if="opened.cc.length"
      >, copy to <bdi>{{ people(opened.cc) }}</bdi></span
    >
    <button v-if="hidden" type="button" class="quiet-button" @click="everyone = true">
      and {{ hidden }} more
    </button>
    <span> · </span><time :title="exact(message.time)">{{ near(message.time) }}</time>
    <span v-if="message.flagged"> · flagged</span>
    <span v-if="checked"> · {{ checked }}</span>
    <span v-if="message.list_id"> · list {{ message.list_id }}</span>
    <span v-if="opened.vouched"> · vouched for</span>
    <button
      v-if="vouchable"
      type="button"
      class="quiet-button reading-vouch"
      title="Its mail stays on the Desk from now on, unless it proves forged"
      @click="emit('vouch')"
    >
      Vouch for this sender
    </button>
  </p>
  <ul v-if="opened.warnings.length" class="reading-warnings" aria-label="Warnings">
    <li v-for="warning in opened.warnings" :key="warning">{{ warning }}</li>
  </ul>
</template>
