<script setup lang="ts">
import { useMailboxes } from '../composables/mailboxes'

const { mailboxes, loaded } = useMailboxes()
</script>

<template>
  <section v-if="loaded" class="begin" aria-label="To begin">
    <p v-if="mailboxes.length">
      <RouterLink to="/mailboxes" class="strong-button">See your mailboxes</RouterLink>
      How far they are read. What comes stands here.
    </p>
    <p v-else>
      <RouterLink to="/connect" class="strong-button">Connect a mailbox</RouterLink>
      It is read, and ten answers teach most of what it needs; nothing is moved until you say so.
    </p>
    <p>
      <RouterLink to="/import" class="plain-button">Import files</RouterLink>
      Mailbox files and single messages, without any server.
    </p>
    <p>
      <RouterLink to="/try" class="plain-button">Try it on your archive</RouterLink>
      See how often it would err on mail you sorted already. Nothing is kept.
    </p>
  </section>
</template>
