<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { client, unwrap } from '../api/client'
import { order, singleKeys, theme } from '../composables/settings'

const queries = useQueryClient()
const { data } = useQuery({ queryKey: ['settings'], queryFn: () => unwrap(client.GET('/api/settings')) })
const { data: about } = useQuery({ queryKey: ['about'], queryFn: () => unwrap(client.GET('/api/about')) })
const addresses = ref('')
const said = ref('')

watch(data, (now) => (addresses.value = now?.owner_addresses.join('\n') ?? ''), { immediate: true })

async function save(): Promise<void> {
  const owner_addresses = addresses.value.split(/[\s,;]+/).filter(Boolean)
  try {
    queries.setQueryData(
      ['settings'],
      await unwrap(client.PUT('/api/settings', { body: { owner_addresses } })),
    )
    said.value = 'Saved. It holds for mail that arrives from now on.'
  } catch (error) {
    said.value = (error as Error).message
  }
}
</script>

<template>
  <div class="page">
    <header class="page-head"><h1>Settings</h1></header>
    <form class="settings" @submit.prevent="save">
      <h2>You</h2>
      <label for="addresses">Addresses you receive mail at, one a line</label>
      <BFormTextarea id="addresses" v-model="addresses" rows="4" spellcheck="false" />
      <p class="note">They tell mail to you alone from mail to a crowd, and your own mail from others'.</p>
      <p>
        <button type="submit" class="plain-button">Save addresses</button>
        <span role="status">{{ said }}</span>
      </p>
    </form>
    <div class="settings">
      <h2>Look and hand</h2>
      <label for="theme">Theme</label>
      <BFormSelect id="theme" v-model="theme">
        <option value="auto">as the system</option>
        <option value="light">light</option>
        <option value="dark">dark</option>
      </BFormSelect>
      <label for="order">Order of lists</label>
      <BFormSelect id="order" v-model="order">
        <option value="importance">by importance</option>
        <option value="time">newest first</option>
      </BFormSelect>
      <BFormCheckbox v-model="singleKeys"
        >Single letters act as keys (a, s, d, f, j, k and the others)</BFormCheckbox
      >
    </div>
    <p class="note">Hieranome {{ about?.version }}<template v-if="about?.demo">, demo data</template></p>
  </div>
</template>
