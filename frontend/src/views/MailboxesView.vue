<script setup lang="ts">
import { ref } from 'vue'
import type { Mailbox } from '../api/client'
import IdentitySettings from '../components/IdentitySettings.vue'
import MailboxFolders from '../components/MailboxFolders.vue'
import MailboxServers from '../components/MailboxServers.vue'
import { stateWords, useMailboxes } from '../composables/mailboxes'
import { exact, near } from '../lib/time'
import { useAttempt } from '../composables/attempt'

const { mailboxes, loaded, keepers, route, pause, look, refresh } = useMailboxes()
const { problem, attempt } = useAttempt()
const said = ref('')
const opened = ref<{ id: number; what: 'servers' | 'folders' } | null>(null)

function toggle(one: Mailbox, what: 'servers' | 'folders'): void {
  const same = opened.value?.id === one.id && opened.value.what === what
  opened.value = same ? null : { id: one.id, what }
}

function isOpen(one: Mailbox, what: string): boolean {
  return opened.value?.id === one.id && opened.value.what === what
}
</script>

<template>
  <div class="page">
    <header class="page-head">
      <h1>Mailboxes</h1>
      <p>
        What is decided here happens on the server, in ordinary folders; what you move in any other program is
        noticed and learned here.
      </p>
    </header>
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <ul class="mailboxes">
      <li v-for="one in mailboxes" :key="one.id" :aria-label="one.address">
        <div class="mailbox-head">
          <h2>
            <bdi>{{ one.address }}</bdi>
          </h2>
          <span class="mailbox-state" role="status">{{ stateWords(one) }}</span>
          <span v-if="one.synced_at" class="note"
            >looked <time :title="exact(one.synced_at)">{{ near(one.synced_at) }}</time></span
          >
        </div>
        <p v-if="one.error" class="page-problem" role="alert">{{ one.error }}</p>
        <progress
          v-if="one.state === 'reading'"
          :value="one.done"
          :max="Math.max(one.total, 1)"
          aria-label="Reading"
        />
        <BFormCheckbox
          switch
          :model-value="one.routing"
          :disabled="one.state !== 'watching'"
          @update:model-value="(on) => attempt(() => route(one, Boolean(on)))"
          >Move mail on the server as it is placed here</BFormCheckbox
        >
        <p class="mailbox-acts">
          <button type="button" class="plain-button" @click="attempt(() => look(one))">Check now</button>
          <button type="button" class="plain-button" @click="attempt(() => pause(one, !one.paused))">
            {{ one.paused ? 'Go on' : 'Pause' }}
          </button>
          <button
            type="button"
            class="plain-button"
            :aria-expanded="isOpen(one, 'servers')"
            @click="toggle(one, 'servers')"
          >
            Servers and password
          </button>
          <button
            type="button"
            class="plain-button"
            :aria-expanded="isOpen(one, 'folders')"
            @click="toggle(one, 'folders')"
          >
            Folders
          </button>
          <RouterLink v-if="!one.routing" class="beside" :to="`/connect/${one.id}`"
            >Where mail would go</RouterLink
          >
          <RouterLink class="beside" :to="`/leave/${one.id}`">Leave …</RouterLink>
        </p>
        <MailboxServers
          v-if="isOpen(one, 'servers')"
          :mailbox="one"
          :keepers="keepers"
          @done="((opened = null), refresh())"
        />
        <MailboxFolders v-if="isOpen(one, 'folders')" :mailbox="one" />
      </li>
    </ul>
    <p v-if="loaded && !mailboxes.length" class="note">
      None yet. A mailbox on a server is read here and everywhere else at the same time.
    </p>
    <p>
      <RouterLink to="/connect" class="strong-button"
        >Connect {{ mailboxes.length ? 'another' : 'a' }} mailbox</RouterLink
      >
    </p>
    <IdentitySettings @said="(text) => (said = text)" />
    <p role="status" class="page-said">{{ said }}</p>
  </div>
</template>
