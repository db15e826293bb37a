<script setup lang="ts">
import { singleKeys } from '../composables/settings'
import { KEYS, keyName } from '../lib/keys'

const shown = defineModel<boolean>({ required: true })
</script>

<template>
  <BModal v-model="shown" title="Keys" title-tag="h2" no-footer centered aria-modal="true">
    <p v-if="!singleKeys" class="note">Single keys are switched off in the settings.</p>
    <dl class="keys">
      <template v-for="binding in KEYS" :key="binding.action">
        <dt>
          <template v-for="(key, number) in binding.keys" :key="key">
            <span v-if="number" aria-hidden="true"> or </span><kbd>{{ keyName(key) }}</kbd>
          </template>
        </dt>
        <dd>{{ binding.title }}</dd>
      </template>
    </dl>
  </BModal>
</template>
