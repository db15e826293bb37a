<script setup lang="ts">
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import CommandLine from './components/CommandLine.vue'
import KeyHelp from './components/KeyHelp.vue'
import TheSpine from './components/TheSpine.vue'
import { asking, useKeyboard, useVerbs } from './composables/actions'
import { useEvents } from './composables/events'
import { useEntry } from './composables/entry'
import { useLetters } from './composables/letters'
import { following, look, theme, useTheme } from './composables/settings'
import { useTeaching } from './composables/teaching'
import { client, unwrap } from './api/client'
import SignIn from './components/SignIn.vue'
import OutboxNotice from './components/OutboxNotice.vue'
import TroubleNotice from './components/TroubleNotice.vue'

const PAGES = ['search', 'letters', 'mailboxes', 'journal', 'bring-in', 'settings']
const route = useRoute()
const router = useRouter()
const help = ref(false)
const { said, show, undo } = useTeaching()

const { entry, inside } = useEntry()
const { begin } = useLetters()

useTheme()
useEvents(inside)
useKeyboard()
useVerbs({
  help: () => (help.value = true),
  undo: () => undo(),
  write: () => begin('new'),
  command: () => (asking.value = {}),
  search: () => router.push({ name: 'search' }),
  go: (name = '') => router.push(PAGES.includes(name) ? `/${name}` : `/in/${name}`),
  find: (line = '') => router.push({ name: 'search', query: { line } }),
  'find-sender': (address = '') => router.push({ name: 'search', query: { line: `from:${address}` } }),
  'find-date': (date = '') => {
    const place = route.name === 'mail' ? `bucket:${String(route.params.place)} ` : ''
    void router.push({ name: 'search', query: { line: `${place}before:${date}`, order: 'time' } })
  },
  'new-folder': (title = '') => makeFolder(title),
  'reading-side': () => (look.value.reading = following(['side', 'below', 'off'], look.value.reading)),
  density: () => (look.value.density = following(['two', 'one'], look.value.density)),
  theme: () => (theme.value = following(['auto', 'light', 'dark'], theme.value)),
})

async function makeFolder(title: string): Promise<void> {
  try {
    const made = await unwrap(client.POST('/api/folders', { body: { title } }))
    show(`The folder “${made.title}” is made.`)
  } catch (error) {
    show((error as Error).message)
  }
}
</script>

<template>
  <SignIn v-if="entry && !inside" :first="entry.first" />
  <template v-else-if="inside">
    <a class="visually-hidden-focusable skip" href="#main">To the mail</a>
    <div class="frame">
      <TheSpine @help="help = true" />
      <main id="main" class="frame-main" tabindex="-1">
        <RouterView :key="String(route.name)" />
        <OutboxNotice />
        <TroubleNotice />
      </main>
    </div>
    <div class="visually-hidden" role="status" aria-live="polite">{{ said }}</div>
    <CommandLine v-if="asking" />
    <KeyHelp v-model="help" />
  </template>
</template>
