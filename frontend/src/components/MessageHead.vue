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
const CHECKED: Record<Opened['standing'], string> = {
  absent: '',
  aligned: 'your mail server confirmed the sender',
  unaligned: 'your mail server did not confirm the sender',
  forged: 'your mail server’s check failed',
}
const checked = computed(() =>
  props.opened.standing === 'unaligned' && props.opened.warnings.length ? '' : CHECKED[props.opened.standing],
)
const vouchable = computed(
  () =>
    !props.opened.vouched &&
    !props.opened.warnings.length &&
    props.opened.sender.address &&
    message.value.decided_by !== 'own',
)
const address = computed(() => {
  const { address } = props.opened.sender
  return address && senderName(message.value) !== address ? address : ''
})

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
    <span v-if="address" class="reading-address">&lt;{{ address }}&gt;</span>
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
