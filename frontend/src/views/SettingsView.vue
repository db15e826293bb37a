<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { client, unwrap, type Settings } from '../api/client'
import BucketSettings from '../components/BucketSettings.vue'
import EntrySettings from '../components/EntrySettings.vue'
import EyeSettings from '../components/EyeSettings.vue'
import KeySettings from '../components/KeySettings.vue'
import PictureSettings from '../components/PictureSettings.vue'
import SureSettings from '../components/SureSettings.vue'

const queries = useQueryClient()
const { data } = useQuery({ queryKey: ['settings'], queryFn: () => unwrap(client.GET('/api/settings')) })
const { data: about } = useQuery({ queryKey: ['about'], queryFn: () => unwrap(client.GET('/api/about')) })
const addresses = ref('')
const said = ref('')

watch(data, (now) => (addresses.value = now?.owner_addresses.join('\n') ?? ''), { immediate: true })

async function save(change: Partial<Settings>): Promise<void> {
  try {
    queries.setQueryData(['settings'], await unwrap(client.PUT('/api/settings', { body: change })))
    said.value = 'Saved. It holds for mail that arrives from now on.'
  } catch (error) {
    said.value = (error as Error).message
  }
}
</script>

<template>
  <div class="page">
    <header class="page-head">
      <h1>Settings</h1>
      <p role="status">{{ said }}</p>
    </header>
    <div class="settings-columns">
      <EyeSettings />
      <div class="settings-stack">
        <KeySettings />
        <BucketSettings @said="(text) => (said = text)" />
        <div v-if="data" class="settings">
          <h2>After a verdict</h2>
          <BFormCheckbox
            :model-value="data.kin_follow"
            @update:model-value="(yes) => save({ kin_follow: Boolean(yes) })"
            >Kin follow at once, as a step of their own in the journal</BFormCheckbox
          >
        </div>
      </div>
      <div class="settings-stack">
        <form
          class="settings"
          @submit.prevent="save({ owner_addresses: addresses.split(/[\s,;]+/).filter(Boolean) })"
        >
          <h2>You</h2>
          <label for="addresses">Addresses you receive mail at, one a line</label>
          <BFormTextarea id="addresses" v-model="addresses" rows="4" spellcheck="false" />
          <p class="note">
            They tell mail to you alone from mail to a crowd, and your own mail from others'.
          </p>
          <p>
            <button type="submit" class="plain-button">Save addresses</button>
          </p>
        </form>
        <PictureSettings @said="(text) => (said = text)" />
        <EntrySettings :demo="about?.demo ?? true" @said="(text) => (said = text)" />
      </div>
      <SureSettings v-if="data" :settings="data" @save="save" />
    </div>
    <p class="note">Hieranome {{ about?.version }}<template v-if="about?.demo">, demo data</template></p>
  </div>
</template>
