<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { client, unwrap } from '../api/client'
import AppearanceSettings from '../components/AppearanceSettings.vue'
import BucketSettings from '../components/BucketSettings.vue'
import EntrySettings from '../components/EntrySettings.vue'
import KeyboardSettings from '../components/KeyboardSettings.vue'
import OwnerSettings from '../components/OwnerSettings.vue'
import TraySettings from '../components/TraySettings.vue'
import { useSettings } from '../composables/owner'

const PARTS = [
  { name: 'you', title: 'You' },
  { name: 'appearance', title: 'Appearance' },
  { name: 'keyboard', title: 'Keyboard' },
  { name: 'buckets', title: 'Buckets and folders' },
  { name: 'trays', title: 'Trays of the Desk' },
  { name: 'data', title: 'Data and password' },
] as const

const route = useRoute()
const { data: about } = useQuery({ queryKey: ['about'], queryFn: () => unwrap(client.GET('/api/about')) })
const said = ref('')
const { settings, save } = useSettings((text) => (said.value = text))
const part = computed(() => PARTS.find((one) => one.name === route.params.part) ?? PARTS[0])

watch(part, () => (said.value = ''))
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
        <OwnerSettings v-if="part.name === 'you' && settings" :settings="settings" @save="save" />
        <AppearanceSettings v-if="part.name === 'appearance'" />
        <KeyboardSettings v-if="part.name === 'keyboard'" />
        <BucketSettings v-if="part.name === 'buckets'" @said="(text) => (said = text)" />
        <TraySettings v-if="part.name === 'trays'" @said="(text) => (said = text)" />
        <EntrySettings
          v-if="part.name === 'data'"
          :demo="about?.demo ?? true"
          @said="(text) => (said = text)"
        />
      </div>
    </div>
  </div>
</template>
