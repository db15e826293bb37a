<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { client, unwrap, type Place } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { usePlaces } from '../composables/places'

type Wanted = Partial<Pick<Place, 'title' | 'notice' | 'rhythm'>>

const emit = defineEmits<{ said: [text: string] }>()
const queries = useQueryClient()
const { places, folders, takers } = usePlaces()
const buckets = computed(() => places.value.filter((place) => place.takes || place.instead))
const title = ref('')
const important = ref(false)
const folder = ref('')

const drawn = ref(0)
/** What is asked before it is done: why, what would be done then, and how that is said. */
const asks = ref<{ why: string; yes: string; act: () => Promise<unknown> } | null>(null)
let meant: { yes: string; act: () => Promise<unknown> } | undefined
const { attempt } = useAttempt(
  (why) => emit('said', why),
  (why) => (asks.value = meant ? { why, ...meant } : null),
)

async function guarded(work: () => Promise<unknown>, done: string): Promise<boolean> {
  asks.value = null
  const fine = await attempt(work)
  if (fine) emit('said', done)
  await queries.invalidateQueries({ queryKey: ['places'] })
  return fine
}

const describe = (place: Place, body: Wanted) =>
  guarded(
    () => unwrap(client.PUT('/api/places/{name}', { params: { path: { name: place.name } }, body })),
    'Saved.',
  )

async function use(place: Place, instead: string, confirmed = false): Promise<void> {
  meant = { yes: 'Switch it off all the same', act: () => use(place, instead, true) }
  const params = { path: { name: place.name } }
  const moved = instead
    ? null
    : await unwrap(client.GET('/api/places/{name}/moved-off', { params })).catch(() => null)
  const done = await guarded(
    () => unwrap(client.PUT('/api/places/{name}/instead', { params, body: { instead, confirmed } })),
    instead
      ? `${place.title} is switched off; the step stands in the journal.`
      : `${place.title} is used again.`,
  )
  if (!done) drawn.value++ // the choice that was not done stands there no more
  if (!done || !moved) return
  const count = moved.messages === 1 ? 'One message' : `${moved.messages} messages`
  asks.value = {
    why: `${count} of ${place.title} went elsewhere when it was switched off.`,
    yes: 'Bring them back',
    act: () => bringBack(place, moved.id),
  }
}

const bringBack = (place: Place, step: number) =>
  guarded(
    () => unwrap(client.POST('/api/steps/{step}/undo', { params: { path: { step } } })),
    `What stood in ${place.title} is back.`,
  )

const addBucket = () =>
  guarded(async () => {
    await unwrap(client.POST('/api/buckets', { body: { title: title.value, important: important.value } }))
    title.value = ''
    important.value = false
  }, 'The bucket is made. Put mail there, and the model learns what belongs in it.')

const addFolder = () =>
  guarded(async () => {
    await unwrap(client.POST('/api/folders', { body: { title: folder.value } }))
    folder.value = ''
  }, 'The folder is made.')

const remove = (place: Place, confirmed = false): Promise<boolean> => {
  meant = { yes: 'Remove it all the same', act: () => remove(place, true) }
  return guarded(async () => {
    const params = { path: { name: place.name }, query: { confirmed } }
    const answer = await client.DELETE('/api/places/{name}', { params })
    if (!answer.response.ok) await unwrap(Promise.resolve(answer as never))
  }, 'The folder is gone.')
}

const valueOf = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <div class="settings settings-buckets">
    <h2>Buckets and folders</h2>
    <div v-if="asks" class="bucket-asks" role="alert">
      <p>{{ asks.why }}</p>
      <button type="button" class="strong-button" @click="asks.act()">{{ asks.yes }}</button>
      <button type="button" class="quiet-button" @click="asks = null">Cancel</button>
    </div>
    <table :key="drawn" class="bucket-table">
      <thead>
        <tr>
          <th scope="col">Name</th>
          <th scope="col">Notice at</th>
          <th scope="col">Rhythm</th>
          <th scope="col">Its mail</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="place in buckets" :key="place.name">
          <td>
            <input
              type="text"
              maxlength="40"
              :value="place.title"
              :aria-label="`Name of ${place.title}`"
              @change="describe(place, { title: valueOf($event) })"
            />
          </td>
          <td>
            <input
              type="number"
              min="0"
              max="100000"
              :value="place.notice"
              :aria-label="`Notice at, for ${place.title}`"
              @change="describe(place, { notice: Number(valueOf($event)) || 0 })"
            />
          </td>
          <td>
            <select
              :value="place.rhythm"
              :aria-label="`Rhythm of ${place.title}`"
              @change="describe(place, { rhythm: valueOf($event) as Place['rhythm'] })"
            >
              <option value="">none</option>
              <option value="daily">daily</option>
              <option value="weekly">weekly</option>
            </select>
          </td>
          <td>
            <select
              v-if="!place.important"
              :value="place.instead"
              :aria-label="`Where mail of ${place.title} goes`"
              @change="use(place, valueOf($event))"
            >
              <option value="">stays there</option>
              <option
                v-for="other in takers.filter((one) => one.name !== place.name)"
                :key="other.name"
                :value="other.name"
              >
                goes to {{ other.title }}
              </option>
            </select>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="note">
      The spine says quietly when so many unread messages wait in a bucket (0: never), or when its day has
      come. A bucket whose mail goes elsewhere is switched off: what stands in it moves too, in one step of
      the journal.
    </p>
    <form class="settings-add" @submit.prevent="addBucket">
      <BFormInput v-model="title" aria-label="New bucket" placeholder="New bucket" maxlength="40" />
      <BFormCheckbox v-model="important">For mail that needs you</BFormCheckbox>
      <button type="submit" class="plain-button" :disabled="!title.trim()">Create the bucket</button>
    </form>
    <form class="settings-add" @submit.prevent="addFolder">
      <BFormInput v-model="folder" aria-label="New folder" placeholder="New folder" maxlength="40" />
      <button type="submit" class="plain-button" :disabled="!folder.trim()">Create the folder</button>
    </form>
    <ul v-if="folders.length" class="folder-list" aria-label="Your folders">
      <li v-for="place in folders" :key="place.name">
        <bdi>{{ place.title }}</bdi> <span class="note">{{ place.total }}</span>
        <button
          v-if="!place.total"
          type="button"
          class="quiet-button"
          :aria-label="`Remove the folder ${place.title}`"
          @click="remove(place)"
        >
          Remove
        </button>
      </li>
    </ul>
  </div>
</template>
