<script setup lang="ts">
import { computed } from 'vue'
import { chosenKeys, singleKeys } from '../composables/settings'
import { ACTIONS, keyName, keysOf } from '../lib/actions'

const shown = defineModel<boolean>({ required: true })
const bound = computed(() =>
  ACTIONS.map((action) => ({ action, keys: keysOf(action, chosenKeys.value) })).filter(
    ({ keys }) => keys.length,
  ),
)
</script>

<template>
  <BModal v-model="shown" title="Keys" title-tag="h2" size="lg" no-footer centered aria-modal="true">
    <p v-if="!singleKeys" class="note">Single keys are switched off in the settings.</p>
    <dl class="keys">
      <div v-for="{ action, keys } in bound" :key="action.name">
        <dt>
          <template v-for="(key, number) in keys" :key="key">
            <span v-if="number" aria-hidden="true"> or </span><kbd>{{ keyName(key) }}</kbd>
          </template>
        </dt>
        <dd>{{ action.title }}</dd>
      </div>
    </dl>
  </BModal>
</template>
