<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { client, unwrap, type Authorisation } from '../api/client'
import { useAttempt } from '../composables/attempt'

const answer = ref<Authorisation | null>(null)
const { problem, attempt } = useAttempt()

onMounted(() =>
  attempt(async () => {
    const body = { returned: window.location.href }
    answer.value = await unwrap(client.POST('/api/authorisations/finish', { body }))
    // The code is good once, and has no place in the history of the browser.
    window.history.replaceState(window.history.state, '', '/authorised')
  }),
)
</script>

<template>
  <div class="page">
    <header class="page-head"><h1>Authorise a mailbox</h1></header>
    <p v-if="problem || answer?.error" class="page-problem" role="alert">{{ problem || answer?.error }}</p>
    <p v-else-if="answer" role="status">
      Authorised. Close this tab, and go on in the one where you are connecting the mailbox.
    </p>
    <p v-else role="status">Asking your provider for the token …</p>
  </div>
</template>
