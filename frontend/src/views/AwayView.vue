<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { AwayGiven, AwayTried, CircleGiven } from '../api/client'
import AwayCircle from '../components/AwayCircle.vue'
import AwayServers from '../components/AwayServers.vue'
import EffectStrip from '../components/EffectStrip.vue'
import KeyCap from '../components/KeyCap.vue'
import WhenField from '../components/WhenField.vue'
import { run, useVerbs } from '../composables/actions'
import { useAttempt } from '../composables/attempt'
import { useAway, useAwayInvitations } from '../composables/away'
import { useKeyed } from '../composables/keyed'
import { usePlaces } from '../composables/places'
import { useTeaching } from '../composables/teaching'
import { emptyAway, givenAway, LANGUAGES, standing } from '../lib/away'
import { moved } from '../lib/order'
import { exact, lasting, near } from '../lib/time'
import { subjectOf } from '../lib/words'

const router = useRouter()
const { titles } = usePlaces()
const { show } = useTeaching()
const { notice, failed, set, off, tryOut } = useAway()
const { invited, failed: unlisted, decline } = useAwayInvitations()
const { attempt, answer, busy, problem } = useAttempt()
const given = ref<AwayGiven>(emptyAway())
const tried = ref<AwayTried>()
const found = ref<HTMLElement>()
const rows = computed(() => invited.value.map((one) => ({ ...one, key: String(one.message.id) })))
const { currentKey, current, verbs } = useKeyed(rows)

// Once: what is being written outlasts whatever the server tells meanwhile.
let written = false
watch(
  notice,
  (kept) => {
    if (kept && !written) given.value = givenAway(kept)
    written ||= kept !== undefined
  },
  { immediate: true },
)

function change(at: number, circle: CircleGiven): void {
  given.value.circles = given.value.circles.map((one, index) => (index === at ? circle : one))
}

function add(): void {
  const name = `Circle ${given.value.circles.length + 1}`
  given.value.circles = [{ name, who: 'line', line: '', texts: { '': '' } }, ...given.value.circles]
}

async function save(on: boolean): Promise<void> {
  const kept = await answer(() => set({ ...given.value, on }))
  if (kept) given.value = givenAway(kept)
  if (kept) show(on ? `${standing(kept)}. It ends by itself.` : 'Kept. Nothing is sent.')
}

async function stop(): Promise<void> {
  if (await attempt(off)) show('No more notices are sent. The texts stay.')
}

async function tryIt(): Promise<void> {
  tried.value = await answer(() => tryOut(given.value))
  await nextTick()
  found.value?.focus()
}

async function refuse(): Promise<void> {
  const one = current.value
  if (one && (await attempt(() => decline(one.message.id)))) show(`“${one.invitation.title}” is declined.`)
}

useVerbs({
  next: verbs.next,
  previous: verbs.previous,
  decline: refuse,
  'try-out': tryIt,
  open: () => {
    const one = current.value?.message
    if (one) void router.push({ name: 'mail', params: { place: one.place, message: String(one.id) } })
  },
})
</script>

<template>
  <div class="subscriptions rules away">
    <header class="subscriptions-head">
      <h1>Away</h1>
      <p class="subscriptions-count" role="status">{{ notice ? standing(notice) : '' }}</p>
      <button
        v-if="notice?.on"
        type="button"
        class="plain-button"
        data-act="away-off"
        :disabled="busy"
        @click="stop"
      >
        Turn it off
      </button>
    </header>
    <p v-if="failed" class="list-note" role="alert">{{ failed.message }}</p>
    <div v-else class="away-body">
      <form class="away-form" aria-label="The away notice" @submit.prevent="save(true)">
        <div class="away-times">
          <WhenField
            v-model="given.begins"
            :label="notice?.begins ? `From ${notice.begins_shown}, or` : 'From'"
          />
          <WhenField
            v-model="given.ends"
            :label="notice?.ends ? `Until ${notice.ends_shown}, or` : 'Until'"
          />
          <label class="away-days">
            A person gets it again after
            <input v-model.number="given.days" type="number" min="1" max="30" class="form-control" />
            days
          </label>
        </div>
        <p class="note">
          The first circle that holds a message decides. Lists, bulk mail, machines, Junk, the Trash and the
          Drain are never answered.
        </p>
        <ol class="away-circles">
          <AwayCircle
            v-for="(circle, at) in given.circles"
            :key="at"
            :model-value="circle"
            :at="at"
            :only="given.circles.length === 1"
            :languages="notice?.languages ?? []"
            @update:model-value="change(at, $event)"
            @out="given.circles = given.circles.filter((_, index) => index !== at)"
            @up="given.circles = moved(given.circles, at, at - 1)"
          />
        </ol>
        <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
        <p class="phrase-acts">
          <button type="submit" class="strong-button" data-act="away-on" :disabled="busy">
            {{ notice?.on ? 'Save' : 'Turn it on' }}
          </button>
          <button
            type="button"
            class="plain-button"
            data-act="try-out"
            :disabled="busy"
            @click="run('try-out')"
          >
            Who would have got one last week <KeyCap of="try-out" />
          </button>
          <button type="button" class="quiet-button" @click="add">Another circle</button>
          <button v-if="!notice?.on" type="button" class="quiet-button" :disabled="busy" @click="save(false)">
            Save, but leave it off
          </button>
        </p>
      </form>
      <div class="away-side">
        <section
          v-if="tried"
          ref="found"
          class="away-tried"
          aria-label="Who would have got one"
          tabindex="-1"
        >
          <h2>Last week: {{ tried.would.length }} of {{ tried.looked_at }} messages</h2>
          <ul class="away-list">
            <li v-for="one in tried.would" :key="one.message.id">
              <bdi class="away-person">{{ one.person }}</bdi>
              <bdi class="away-subject">{{ subjectOf(one.message.subject) }}</bdi>
              <span class="note" :title="one.text"
                >{{ one.circle
                }}<template v-if="one.language">, {{ LANGUAGES[one.language] }}</template></span
              >
            </li>
          </ul>
          <h3 v-if="tried.others.length">And none for</h3>
          <ul class="away-others">
            <li v-for="one in tried.others" :key="one.why">
              <span class="away-count">{{ one.count }}</span> because {{ one.why }}
            </li>
          </ul>
        </section>
        <section aria-label="Invitations into that time">
          <h2>Invitations into that time</h2>
          <p v-if="unlisted" class="page-problem" role="alert">{{ unlisted.message }}</p>
          <p v-else-if="!notice?.ends" class="note">Say until when, and they are listed.</p>
          <p v-else-if="!rows.length" class="note">None.</p>
          <ul class="away-list">
            <li
              v-for="one in rows"
              :key="one.key"
              class="away-invited"
              :class="{ current: one.key === currentKey }"
              :aria-current="one.key === currentKey ? 'true' : undefined"
              :data-invited="one.invitation.title"
              @click="currentKey = one.key"
            >
              <span class="away-person">{{
                lasting(one.invitation.start, one.invitation.end, one.invitation.all_day, 'medium')
              }}</span>
              <bdi class="away-subject">{{ one.invitation.title }}</bdi>
              <span v-if="one.answer" class="note">{{ one.answer }}</span>
              <button
                v-else
                type="button"
                class="quiet-button"
                @click="((currentKey = one.key), run('decline'))"
              >
                Decline <KeyCap v-if="one.key === currentKey" of="decline" />
              </button>
            </li>
          </ul>
        </section>
        <section aria-label="Who got it">
          <h2>Who got it</h2>
          <p v-if="!notice?.told.length" class="note">Nobody yet.</p>
          <ul class="away-list">
            <li v-for="(one, at) in notice?.told" :key="at">
              <bdi class="away-person">{{ one.person }}</bdi>
              <span class="away-subject"
                >{{ one.circle
                }}<template v-if="one.language">, {{ LANGUAGES[one.language] }}</template></span
              >
              <span v-if="one.failed" class="rule-broken" :title="one.failed">not taken</span>
              <time v-else class="note" :title="exact(one.at)">{{ near(one.at) }}</time>
            </li>
          </ul>
        </section>
        <AwayServers v-if="notice" :notice="notice" />
      </div>
    </div>
    <EffectStrip :titles="titles" />
  </div>
</template>
