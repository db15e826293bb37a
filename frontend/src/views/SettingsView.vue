<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { client, unwrap, type Settings } from '../api/client'
import AppearanceSettings from '../components/AppearanceSettings.vue'
import BucketSettings from '../components/BucketSettings.vue'
import EntrySettings from '../components/EntrySettings.vue'
import KeyboardSettings from '../components/KeyboardSettings.vue'
import OwnerSettings from '../components/OwnerSettings.vue'
import PhraseSettings from '../components/PhraseSettings.vue'
import PictureSettings from '../components/PictureSettings.vue'
import RoutineSettings from '../components/RoutineSettings.vue'
import SureSettings from '../components/SureSettings.vue'
import TraySettings from '../components/TraySettings.vue'
import { useAttempt } from '../composables/attempt'

const PARTS = [
  { name: 'you', title: 'You' },
  { name: 'appearance', title: 'Appearance' },
  { name: 'keyboard', title: 'Keyboard' },
  { name: 'buckets', title: 'Buckets and folders' },
  { name: 'trays', title: 'Trays of the Desk' },
  { name: 'phrases', title: 'Phrasebook' },
  { name: 'routines', title: 'Routines' },
  { name: 'senders', title: 'Senders' },
  { name: 'data', title: 'Data and password' },
] as const

const route = useRoute()
const queries = useQueryClient()
const { data } = useQuery({ queryKey: ['settings'], queryFn: () => unwrap(client.GET('/api/settings')) })
const { data: about } = useQuery({ queryKey: ['about'], queryFn: () => unwrap(client.GET('/api/about')) })
const said = ref('')
const { answer } = useAttempt((why) => (said.value = why))
const part = computed(() => PARTS.find((one) => one.name === route.params.part) ?? PARTS[0])

watch(part, () => (said.value = ''))

async function save(change: Partial<Settings>): Promise<void> {
  const now = await answer(() => unwrap(client.PUT('/api/settings', { body: change })))
  if (!now) return
  queries.setQueryData(['settings'], now)
  said.value = 'Saved. It holds for mail that arrives from now on.'
}
</script>

<template>
  <div class="page">
    <header class="page-head">
      <h1>Settings</h1>
      <p role="status">{{ said }}</p>
    </header>
    <div class="settings-page">
      <nav class="settings-parts" aria-label="Parts of the settings">
        <RouterLink
          v-for="one in PARTS"
          :key="one.name"
          :to="`/settings/${one.name}`"
          :aria-current="one === part ? 'page' : undefined"
          :class="{ here: one === part }"
          >{{ one.title }}</RouterLink
        >
        <p class="note">Hieranome {{ about?.version }}<template v-if="about?.demo">, demo data</template></p>
      </nav>
      <div class="settings-columns">
        <OwnerSettings v-if="part.name === 'you' && data" :settings="data" @save="save" />
        <AppearanceSettings v-if="part.name === 'appearance'" />
        <KeyboardSettings v-if="part.name === 'keyboard'" />
        <BucketSettings v-if="part.name === 'buckets'" @said="(text) => (said = text)" />
        <TraySettings v-if="part.name === 'trays'" @said="(text) => (said = text)" />
        <PhraseSettings v-if="part.name === 'phrases'" @said="(text) => (said = text)" />
        <RoutineSettings v-if="part.name === 'routines'" @said="(text) => (said = text)" />
        <template v-if="part.name === 'senders'">
          <SureSettings v-if="data" :settings="data" @save="save" />
          <PictureSettings @said="(text) => (said = text)" />
        </template>
        <EntrySettings
          v-if="part.name === 'data'"
          :demo="about?.demo ?? true"
          @said="(text) => (said = text)"
        />
      </div>
    </div>
  </div>
</template>
