<script setup lang="ts">
import { computed, nextTick, toRef, watch } from 'vue'
import { keyFor, run, useVerbs } from '../composables/actions'
import { useDrafts } from '../composables/drafts'
import { useOpened } from '../composables/opened'
import { usePhrasing } from '../composables/phrases'
import { appearance } from '../composables/settings'
import { above } from '../composables/short'
import { isWeighed, subjectOf } from '../lib/words'
import KeyCap from './KeyCap.vue'
import MessageBody from './MessageBody.vue'
import MessageDetails from './MessageDetails.vue'
import MessageHead from './MessageHead.vue'
import ScoreRow from './ScoreRow.vue'
import ShortOf from './ShortOf.vue'
import StandingWith from './StandingWith.vue'
import ThreadView from './ThreadView.vue'

const props = defineProps<{ number: number; whole: boolean }>()
const emit = defineEmits<{ open: [number: number]; close: []; whole: [] }>()

const { opened, failed, waiting, pictures, showPictures, alwaysPictures, vouch } = useOpened(
  toRef(props, 'number'),
)
/** Whether it is a draft, of another program or of ours as it stands on the server. */
const draft = computed(() => opened.value?.message.place === 'drafts')
const weighed = computed(() => !opened.value || isWeighed(opened.value.message))
/** The other side of the open message: who wrote it, or to whom the owner did. */
const somebody = computed(() => {
  const one = opened.value
  return (one?.message.decided_by === 'own' ? one.to[0]?.address : one?.sender.address) ?? ''
})
const edition = computed(() => opened.value?.edition ?? 0)

const { begin } = useDrafts()
const { replyWith } = usePhrasing()

useVerbs({
  pictures: showPictures,
  evidence: () => (appearance.value.evidence = !appearance.value.evidence),
  reply: () => begin(draft.value ? 'draft' : 'reply', props.number),
  'reply-all': () => begin('reply_all', props.number),
  forward: () => begin('forward', props.number),
  short: () => (above.value = above.value === 'short' ? '' : 'short'),
  'standing-with': () => (above.value = above.value === 'standing' ? '' : 'standing'),
  'reply-phrase': (short = '') => replyWith(props.number, short),
})
watch(
  () => opened.value?.message.id,
  () => void nextTick(() => document.querySelector('.reading')?.scrollTo({ top: 0 })),
)
</script>

<template>
  <article
    class="reading"
    aria-label="Open message"
    :data-number="opened?.message.id"
    :style="{ '--text-size': `${appearance.textSize}%` }"
  >
    <p v-if="failed" class="reading-error" role="alert">{{ failed.message }}</p>
    <p v-else-if="waiting" class="reading-wait">Opening</p>
    <template v-else-if="opened">
      <header class="reading-head">
        <div class="reading-title">
          <h2 dir="auto" :title="opened.message.subject">{{ subjectOf(opened.message.subject) }}</h2>
          <button
            v-for="[what, name, title] in [
              ['short', 'short', 'Summary'],
              ['standing', 'standing-with', 'About the sender'],
            ] as const"
            :key="name"
            type="button"
            class="quiet-button"
            :data-act="name"
            :aria-pressed="above === what"
            :title="`${what === 'short' ? 'The short of it' : 'Where things stand with them'} (${keyFor(name)})`"
            @click="run(name)"
          >
            {{ title }}
          </button>
          <button type="button" class="quiet-button" @click="emit('whole')">
            {{ whole ? 'Beside the list' : 'Whole page' }}
          </button>
          <button type="button" class="quiet-button" aria-label="Close the message" @click="emit('close')">
            Close
          </button>
        </div>
        <MessageHead :opened="opened" @vouch="vouch">
          <span v-if="draft" class="reading-answer">
            <button type="button" class="quiet-button" data-act="go-on" @click="begin('draft', number)">
              Go on writing <KeyCap of="reply" />
            </button>
          </span>
          <span v-else-if="edition" class="reading-answer">
            <RouterLink :to="`/editions/${edition}`">Read it as a page</RouterLink>
          </span>
          <span v-else class="reading-answer" role="group" aria-label="Answer">
            <button type="button" class="quiet-button" @click="begin('reply', number)">
              Reply <KeyCap of="reply" />
            </button>
            <button
              v-if="opened.to.length + opened.cc.length > 1"
              type="button"
              class="quiet-button"
              @click="begin('reply_all', number)"
            >
              to all <KeyCap of="reply-all" />
            </button>
            <button type="button" class="quiet-button" @click="begin('forward', number)">
              Forward <KeyCap of="forward" />
            </button>
          </span>
        </MessageHead>
      </header>
      <ScoreRow v-if="weighed" :opened="opened" />
      <p v-if="opened.defects.length" class="reading-defects">
        Odd about it: {{ opened.defects.join(', ') }}.
      </p>
      <ShortOf v-if="above === 'short'" :number="opened.message.id" />
      <StandingWith
        v-else-if="above === 'standing' && somebody"
        :address="somebody"
        @open="(other) => emit('open', other)"
      />
      <ThreadView :number="opened.message.id" @open="(other) => emit('open', other)">
        <MessageBody
          class="is-current"
          :number="opened.message.id"
          :opened="opened"
          :pictures="pictures"
          @pictures="showPictures"
          @always-pictures="alwaysPictures"
        />
      </ThreadView>
      <MessageDetails :number="opened.message.id" :opened="opened" />
    </template>
  </article>
</template>
