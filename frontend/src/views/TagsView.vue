<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { Tag, TagChange } from '../api/client'
import EffectStrip from '../components/EffectStrip.vue'
import { useVerbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { useKeyed } from '../composables/keyed'
import { usePlaces } from '../composables/places'
import { useRuleMaking } from '../composables/rules'
import { tagLine, useTags } from '../composables/tags'
import { useTeaching } from '../composables/teaching'

const TONES = [
  'pine', 'moss', 'olive', 'ochre', 'clay', 'brick', 'plum', 'heather', 'slate', 'lake', 'stone', 'umber',
] // prettier-ignore

const router = useRouter()
const { all, foreign, keptHere, loading, failed, make, change, merge, remove, adopt } = useTags()
const { begin } = useRuleMaking()
const { titles } = usePlaces()
const teaching = useTeaching()
const { attempt, busy } = useAttempt(teaching.show, (why) => teaching.show(why, meant, 'Delete it all the same'))
const rows = computed(() => all.value.map((one) => ({ ...one, key: String(one.id) })))
const { currentKey, at, current, verbs } = useKeyed(rows)
const fresh = ref('')
const name = ref('')
const into = ref(0)
const others = computed(() => all.value.filter((one) => one.id !== current.value?.id))

watch(
  current,
  (now) => {
    name.value = now?.name ?? ''
    into.value = 0
  },
  { immediate: true },
)
watch(at, () =>
  nextTick(() => document.querySelector('.tag-row.current')?.scrollIntoView({ block: 'nearest' })),
)

async function makeOne(): Promise<void> {
  await attempt(async () => {
    const made = await make(fresh.value)
    fresh.value = ''
    currentKey.value = String(made.id)
    teaching.tell(`Tag ${made.name} made.`)
  })
}

async function set(tag: Tag, what: TagChange, said = ''): Promise<void> {
  const done = await attempt(() => change(tag, what))
  if (done && said) teaching.tell(said)
  else if (!done) name.value = tag.name
}

async function mergeInto(tag: Tag): Promise<void> {
  const target = all.value.find((one) => one.id === into.value)
  if (!target) return
  const done = await attempt(() => merge(tag, target.id))
  if (!done) return
  currentKey.value = String(target.id)
  teaching.tell(`${tag.name} is ${target.name} now.`)
}

let meant: (() => Promise<void>) | undefined

async function removeOne(tag: Tag, confirmed = false): Promise<void> {
  meant = () => removeOne(tag, true)
  if (await attempt(() => remove(tag, confirmed))) teaching.tell(`Tag ${tag.name} deleted.`)
}

function find(tag: Tag | undefined): void {
  if (tag) void router.push({ name: 'search', query: { line: tagLine(tag.name), order: 'time' } })
}

useVerbs({ next: verbs.next, previous: verbs.previous, open: () => find(current.value) })
</script>

<template>
  <div class="subscriptions tags-page">
    <header class="subscriptions-head">
      <h1>Tags</h1>
      <p class="subscriptions-count" role="status">
        <template v-if="keptHere.length"
          >{{ keptHere.join(', ') }} takes no keywords, so tags of its mail stay here</template
        >
        <template v-else-if="all.length">Other programs see each as a keyword of the message</template>
      </p>
      <form class="address-maker" @submit.prevent="makeOne">
        <label for="fresh-tag">New tag</label>
        <input id="fresh-tag" v-model="fresh" class="form-control" maxlength="60" placeholder="its name" />
        <button type="submit" class="plain-button" :disabled="busy || !fresh.trim()">Create</button>
      </form>
    </header>
    <div class="subscriptions-body">
      <div class="subscriptions-list" role="table" aria-label="Your tags">
        <div class="tag-row subscription-titles" role="row">
          <span role="columnheader">Tag</span>
          <span role="columnheader" class="number">Mail</span>
          <span role="columnheader">In lists</span>
          <span role="columnheader">On servers</span>
        </div>
        <p v-if="failed" class="list-note" role="alert">{{ failed.message }}</p>
        <p v-else-if="!rows.length && !loading" class="list-note">
          No tags yet. Give a message one while you read it, or make one here; a message can carry several.
        </p>
        <div
          v-for="row in rows"
          :key="row.key"
          class="tag-row"
          role="row"
          :class="{ current: row.key === currentKey }"
          :aria-current="row.key === currentKey ? 'true' : undefined"
          :data-tag-row="row.name"
          @click="currentKey = row.key"
          @dblclick="find(row)"
        >
          <span role="cell" :style="{ paddingLeft: `${Math.min(row.depth, 12) * 16}px` }"
            ><span class="tag" :data-tone="row.tone"
              ><bdi>{{ row.name }}</bdi></span
            ></span
          >
          <span role="cell" class="number">{{ row.total.toLocaleString() }}</span>
          <span role="cell">{{ row.shown ? 'shown' : 'hidden' }}</span>
          <span role="cell" class="tag-keyword">{{ row.keyword }}</span>
        </div>
        <section v-if="foreign.length" class="tags-foreign" aria-label="Keywords of other programs">
          <h2>Keywords other programs put on your mail</h2>
          <ul>
            <li v-for="one in foreign.slice(0, 20)" :key="one.keyword">
              <code>{{ one.keyword }}</code>
              <span>{{ one.messages === 1 ? '1 message' : `${one.messages} messages` }}</span>
              <button
                type="button"
                class="quiet-button"
                :aria-label="`Make ${one.keyword} a tag`"
                @click="attempt(() => adopt(one.keyword))"
              >
                Use as a tag
              </button>
            </li>
          </ul>
        </section>
      </div>
      <aside v-if="current" class="about" :aria-label="`About ${current.name}`">
        <h2>
          <bdi>{{ current.name }}</bdi>
        </h2>
        <form class="tag-form" @submit.prevent="set(current, { name }, `Renamed ${name}.`)">
          <label for="tag-name">Name</label>
          <div class="tag-field">
            <input id="tag-name" v-model="name" class="form-control" maxlength="60" />
            <button
              type="submit"
              class="plain-button"
              :disabled="busy || !name.trim() || name === current.name"
            >
              Rename
            </button>
          </div>
          <label for="tag-parent">Parent</label>
          <select
            id="tag-parent"
            class="form-select"
            :value="current.parent"
            @change="set(current, { parent: Number(($event.target as HTMLSelectElement).value) }, 'Moved.')"
          >
            <option :value="0">none</option>
            <option v-for="one in others" :key="one.id" :value="one.id">{{ one.name }}</option>
          </select>
          <fieldset class="tag-tones">
            <legend>Tone</legend>
            <label v-for="(tone, number) in TONES" :key="tone" :title="tone">
              <input
                type="radio"
                name="tone"
                :value="number"
                :checked="current.tone === number"
                @change="set(current, { tone: number })"
              />
              <span class="tag" :data-tone="number">{{ tone }}</span>
            </label>
          </fieldset>
          <label class="tag-shown">
            <input
              type="checkbox"
              :checked="current.shown"
              @change="set(current, { shown: !current.shown })"
            />
            Shown on rows of mail
          </label>
          <label for="tag-into">Merge into</label>
          <div class="tag-field">
            <select id="tag-into" v-model="into" class="form-select">
              <option :value="0">choose one</option>
              <option v-for="one in others" :key="one.id" :value="one.id">{{ one.name }}</option>
            </select>
            <button type="button" class="plain-button" :disabled="busy || !into" @click="mergeInto(current)">
              Merge
            </button>
          </div>
        </form>
        <p class="tag-acts">
          <button type="button" class="plain-button" @click="find(current)">Find its mail</button>
          <RouterLink class="plain-button" :to="{ name: 'topics', query: { tag: current.id } }"
            >Let it learn</RouterLink
          >
          <button type="button" class="plain-button" @click="begin(current.name, tagLine(current.name))">
            Make a rule
          </button>
          <button type="button" class="plain-button" :disabled="busy" @click="removeOne(current)">
            Delete
          </button>
        </p>
        <p class="note">
          Each change can be undone; on servers the keyword stays as it was made.
        </p>
      </aside>
    </div>
    <EffectStrip :titles="titles" />
  </div>
</template>
