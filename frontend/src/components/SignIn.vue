<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useEntry } from '../composables/entry'
import { useAttempt } from '../composables/attempt'

defineProps<{ first: boolean }>()

const { signIn } = useEntry()
const password = ref('')
const code = ref('')
const { problem, busy, attempt } = useAttempt()
const field = ref<HTMLInputElement>()

onMounted(() => field.value?.focus())

function enter(first: boolean): void {
  void attempt(() => signIn(password.value, first ? code.value.trim() : ''))
}
</script>

<template>
  <main class="entry">
    <form class="entry-form" @submit.prevent="enter(first)">
      <p class="entry-name">Hieranome</p>
      <h1>{{ first ? 'Choose a password' : 'Sign in' }}</h1>
      <p v-if="first" class="note">
        It opens this page from now on, and can seal the passwords of your mailboxes. The code was printed
        where Hieranome was started.
      </p>
      <template v-if="first">
        <label for="entry-code">Code</label>
        <input
          id="entry-code"
          ref="field"
          v-model="code"
          class="form-control"
          autocomplete="off"
          spellcheck="false"
        />
        <label for="entry-password">New password, at least 10 characters</label>
        <input
          id="entry-password"
          v-model="password"
          class="form-control"
          type="password"
          autocomplete="new-password"
        />
      </template>
      <template v-else>
        <label for="entry-password">Password</label>
        <input
          id="entry-password"
          ref="field"
          v-model="password"
          class="form-control"
          type="password"
          autocomplete="current-password"
        />
      </template>
      <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
      <p>
        <button type="submit" class="strong-button" :disabled="busy || !password">
          {{ first ? 'Set the password' : 'Sign in' }}
        </button>
      </p>
    </form>
  </main>
</template>
