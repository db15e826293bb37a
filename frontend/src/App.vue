<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { defineAsyncComponent, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import CommandLine from './components/CommandLine.vue'
import KeyHelp from './components/KeyHelp.vue'
import TheSpine from './components/TheSpine.vue'
import { asking, useKeyboard, useVerbs } from './composables/actions'
import { useAttempt } from './composables/attempt'
import { TO_GO } from './pages'
import { routineOf } from './lib/routines'
import { useArranged } from './composables/arranged'
import { useEvents } from './composables/events'
import { useEntry } from './composables/entry'
import { useDrafts } from './composables/drafts'
import { chosenKeys, following, appearance, theme, useTheme } from './composables/settings'
import { tagLine } from './composables/tags'
import { useTeaching } from './composables/teaching'
import { client, unwrap, type Routines } from './api/client'
import SignIn from './components/SignIn.vue'
import FailureNotice from './components/FailureNotice.vue'
import ArrangedNotice from './components/ArrangedNotice.vue'
import VisitNote from './components/VisitNote.vue'
import PageTabs from './components/PageTabs.vue'
import OutboxNotice from './components/OutboxNotice.vue'
import TroubleNotice from './components/TroubleNotice.vue'

const route = useRoute()
const router = useRouter()
const help = ref(false)
const guide = ref(false)
const GuideSide = defineAsyncComponent(() => import('./components/GuideSide.vue'))
const { said, show, undo } = useTeaching()
const { answer } = useAttempt(show)

const queries = useQueryClient()
const known = () => queries.getQueryData<Routines>(['routines'])?.routines ?? []
const { entry, inside, failed, again } = useEntry()
const { begin } = useDrafts()

useTheme()
useEvents(inside)
useArranged(inside)
useKeyboard((key) => routineOf(key, known(), chosenKeys.value)?.id)
useVerbs({
  help: () => (help.value = true),
  guide: () => (guide.value = !guide.value),
  undo: () => undo(),
  write: () => begin('new'),
  command: () => (asking.value = {}),
  search: () => router.push({ name: 'search' }),
  go: (name = '') => router.push(TO_GO.some((one) => one.name === name) ? `/${name}` : `/in/${name}`),
  find: (line = '') => router.push({ name: 'search', query: { line } }),
  'find-tag': (name = '') => router.push({ name: 'search', query: { line: tagLine(name), order: 'time' } }),
  'find-sender': (address = '') => router.push({ name: 'search', query: { line: `from:${address}` } }),
  'find-date': (date = '') => {
    const place = route.name === 'mail' ? `bucket:${String(route.params.place)} ` : ''
    void router.push({ name: 'search', query: { line: `${place}before:${date}`, order: 'time' } })
  },
  'new-folder': (title = '') => makeFolder(title),
  'make-routine': () => {
    const message = String(route.params.message ?? '')
    void router.push({ name: 'routines', query: message ? { message } : {} })
  },
  'reading-side': () =>
    (appearance.value.reading = following(['side', 'below', 'off'], appearance.value.reading)),
  density: () => (appearance.value.density = following(['two', 'one'], appearance.value.density)),
  theme: () => (theme.value = following(['auto', 'light', 'dark'], theme.value)),
})

async function makeFolder(title: string): Promise<void> {
  const made = await answer(() => unwrap(client.POST('/api/folders', { body: { title } })))
  if (made) show(`The folder “${made.title}” is made.`)
}
</script>

<template>
  <SignIn v-if="entry && !inside" :first="entry.first" />
  <main v-else-if="failed" class="entry">
    <div class="entry-form">
      <p class="entry-name">Hieranome</p>
      <h1>The page could not be opened</h1>
      <p role="alert">{{ failed.message }}</p>
      <p><button type="button" class="strong-button" @click="again()">Try again</button></p>
    </div>
  </main>
  <template v-else-if="inside">
    <a class="visually-hidden-focusable skip" href="#main">To the mail</a>
    <div class="frame" :class="{ guided: guide }">
      <TheSpine @help="help = true" @guide="guide = !guide" />
      <main id="main" class="frame-main" tabindex="-1">
        <PageTabs />
        <VisitNote v-if="!route.meta.listed" />
        <RouterView :key="String(route.name)" />
        <div class="notices">
          <FailureNotice />
          <TroubleNotice />
          <OutboxNotice />
          <ArrangedNotice />
        </div>
      </main>
      <GuideSide v-if="guide" @close="guide = false" />
    </div>
    <div class="visually-hidden" role="status" aria-live="polite">{{ said }}</div>
    <CommandLine v-if="asking" />
    <KeyHelp v-model="help" />
  </template>
</template>
