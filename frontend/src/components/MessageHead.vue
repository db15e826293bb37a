<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Opened } from '../api/client'
import { tagLine, useTags } from '../composables/tags'
import { useTeaching } from '../composables/teaching'
import { followWords, isDue } from '../lib/following'
import { exact, near } from '../lib/time'
import { isWeighed, senderName } from '../lib/words'

const props = defineProps<{ opened: Opened }>()
const emit = defineEmits<{ vouch: [] }>()

const { byId } = useTags()
const { stopRefusing } = useTeaching()
const tags = computed(() => message.value.tags.map((id) => byId.value.get(id)).filter(Boolean))
const more = ref(false)
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
    isWeighed(message.value),
)
const address = computed(() => {
  const { address } = props.opened.sender
  return address && senderName(message.value) !== address ? address : ''
})

const first = computed(() => props.opened.to[0] ?? props.opened.cc[0])
const others = computed(() => props.opened.to.length + props.opened.cc.length - 1)
const people = (list: Opened['to']) => list.map((one) => one.name || one.address).join(', ')
</script>

<template>
  <div class="reading-who">
    <div class="reading-facts">
      <span class="reading-from">
        <bdi class="reading-sender">{{ senderName(message) }}</bdi>
        <bdi v-if="address" class="reading-address">&lt;{{ address }}&gt;</bdi>
        <span v-if="first" class="reading-to"
          >to <bdi>{{ first.name || first.address }}</bdi><template v-if="others > 0">
            and {{ others }} more</template
          ></span
        >
        <time :title="exact(message.time)">{{ near(message.time) }}</time>
      </span>
      <span class="reading-marks">
        <span v-for="said in followWords(message.follow)" :key="said" class="follow-said">{{ said }}</span>
        <span v-if="message.answered">answered</span>
        <span v-if="message.flagged && !isDue(message)">flagged</span>
        <span v-for="tag in tags" :key="tag?.id" class="tag" :data-tone="tag?.tone"
          ><RouterLink :to="{ name: 'search', query: { line: tagLine(tag?.name ?? ''), order: 'time' } }"
            ><bdi>{{ tag?.name }}</bdi></RouterLink
          ></span
        >
      </span>
    </div>
    <button type="button" class="quiet-button" :aria-expanded="more" @click="more = !more">
      {{ more ? 'Less' : 'More' }}
    </button>
    <slot />
  </div>
  <dl v-if="more" class="reading-people">
    <template v-if="opened.to.length">
      <dt>To</dt>
      <dd>
        <bdi>{{ people(opened.to) }}</bdi>
      </dd>
    </template>
    <template v-if="opened.cc.length">
      <dt>Cc</dt>
      <dd>
        <bdi>{{ people(opened.cc) }}</bdi>
      </dd>
    </template>
    <template v-if="message.list_id">
      <dt>List</dt>
      <dd>{{ message.list_id }}</dd>
    </template>
    <template v-if="opened.ruled.length">
      <dt>Rules</dt>
      <dd>
        <span v-for="(rule, index) in opened.ruled" :key="rule.rule"
          ><template v-if="index">, </template
          ><RouterLink :to="{ name: 'rules', query: { rule: rule.rule } }">{{ rule.name }}</RouterLink></span
        >
      </dd>
    </template>
    <template v-if="opened.topics.length">
      <dt>Topics</dt>
      <dd>
        <span v-for="(tag, index) in opened.topics" :key="tag"
          ><template v-if="index">, </template
          ><RouterLink :to="{ name: 'topics', query: { tag } }">{{ byId.get(tag)?.name }}</RouterLink></span
        >
      </dd>
    </template>
    <template v-if="checked || opened.vouched || vouchable">
      <dt>Sender</dt>
      <dd>
        <span v-if="checked">{{ checked }}</span><span v-if="opened.vouched"
          >{{ checked ? '; ' : '' }}you vouch for it</span
        >
        <button
          v-if="vouchable"
          type="button"
          class="quiet-button reading-vouch"
          title="Its mail stays on the Desk from now on, unless it proves forged"
          @click="emit('vouch')"
        >
          Vouch for this sender
        </button>
      </dd>
    </template>
  </dl>
  <p v-if="opened.refused" class="reading-refused" role="note">
    You refuse {{ opened.refused.startsWith('list:') ? 'this list' : 'this sender' }}: the next one goes to
    the Drain.
    <button type="button" class="plain-button" data-act="stop-refusing" @click="stopRefusing(opened.refused)">
      Stop refusing
    </button>
  </p>
  <ul v-if="opened.warnings.length" class="reading-warnings" aria-label="Warnings">
    <li v-for="warning in opened.warnings" :key="warning">{{ warning }}</li>
  </ul>
</template>
