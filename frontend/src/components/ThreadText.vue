<script setup lang="ts">
import { toRef } from 'vue'
import { useOpened } from '../composables/opened'
import MessageBody from './MessageBody.vue'

const props = defineProps<{ number: number }>()
const emit = defineEmits<{ open: [] }>()

const { opened, failed, pictures, showPictures, alwaysPictures } = useOpened(toRef(props, 'number'))
</script>

<template>
  <div class="thread-text">
    <p v-if="failed" class="reading-error" role="alert">{{ failed.message }}</p>
    <template v-else-if="opened">
      <MessageBody
        :number="number"
        :opened="opened"
        :pictures="pictures"
        @pictures="showPictures"
        @always-pictures="alwaysPictures"
      />
      <button type="button" class="quiet-button" @click="emit('open')">Why it stands where it stands</button>
    </template>
  </div>
</template>
