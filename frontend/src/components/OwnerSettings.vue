<script setup lang="ts">
import { ref, watch } from 'vue'
import type { Settings } from '../api/client'

const props = defineProps<{ settings: Settings }>()
const emit = defineEmits<{ save: [change: Partial<Omit<Settings, 'checkers'>>] }>()

const addresses = ref('')

watch(
  () => props.settings.owner_addresses,
  (now) => (addresses.value = now.join('\n')),
  { immediate: true },
)
</script>

<template>
  <form
    class="settings"
    @submit.prevent="emit('save', { owner_addresses: addresses.split(/[\s,;]+/).filter(Boolean) })"
  >
    <h2>You</h2>
    <label for="addresses">Addresses you receive mail at, one a line</label>
    <BFormTextarea id="addresses" v-model="addresses" rows="4" spellcheck="false" />
    <p class="note">They tell mail to you alone from mail to a crowd, and your own mail from others'.</p>
    <p><button type="submit" class="plain-button">Save addresses</button></p>
  </form>
  <div class="settings">
    <h2>What teaches</h2>
    <BFormCheckbox
      :model-value="settings.kin_follow"
      @update:model-value="(yes) => emit('save', { kin_follow: Boolean(yes) })"
      >Similar mail follows at once, as a step of its own in the journal</BFormCheckbox
    >
    <BFormCheckbox
      :model-value="settings.looked_past_teaches"
      @update:model-value="(yes) => emit('save', { looked_past_teaches: Boolean(yes) })"
      >Mail you look past and leave where it was put teaches a little</BFormCheckbox
    >
    <p class="note">Switched off, what you looked past so far is forgotten.</p>
  </div>
  <div class="settings">
    <h2>Drafts</h2>
    <BFormCheckbox
      :model-value="settings.drafts_on_server"
      @update:model-value="(yes) => emit('save', { drafts_on_server: Boolean(yes) })"
      >Save drafts in their mailbox's Drafts too, so that other programs show them</BFormCheckbox
    >
  </div>
</template>
