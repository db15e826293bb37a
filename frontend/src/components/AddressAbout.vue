<script setup lang="ts">
import { ref, watch } from 'vue'
import type { Address, Purpose } from '../api/client'
import { useAddresses } from '../composables/addresses'
import { useAttempt } from '../composables/attempt'
import { isGiven, lineOf, PURPOSES } from '../lib/addresses'
import { exact, near } from '../lib/time'

const props = defineProps<{ address?: Address }>()
const emit = defineEmits<{ told: [words: string] }>()

const { describe, forget } = useAddresses()
const { problem, attempt, busy } = useAttempt()
const note = ref('')
const copied = ref(false)

watch(
  () => [props.address?.address, props.address?.given_to],
  () => {
    note.value = props.address?.given_to ?? ''
    copied.value = false
  },
  { immediate: true },
)

async function say(purpose: Purpose): Promise<void> {
  const one = props.address
  if (!one) return
  if (await attempt(() => describe(one, purpose, one.given_to)))
    emit(
      'told',
      purpose ? 'What stands is scored anew, and stays where it is.' : 'Its mail is weighed as before.',
    )
}

async function keepNote(): Promise<void> {
  const one = props.address
  if (one && note.value.trim() !== one.given_to) await attempt(() => describe(one, one.purpose, note.value))
}

async function copy(): Promise<void> {
  if (!props.address) return
  copied.value = await attempt(() => navigator.clipboard.writeText(props.address?.address ?? ''))
}

async function drop(): Promise<void> {
  const one = props.address
  if (one) await attempt(() => forget(one))
}
</script>

<template>
  <aside class="about" aria-label="The address">
    <template v-if="address">
      <h2>
        <bdi>{{ address.address }}</bdi>
      </h2>
      <p v-if="address.made_at" class="note" :title="exact(address.made_at)">
        made {{ near(address.made_at) }}
      </p>
      <p class="about-acts">
        <button type="button" class="quiet-button" data-act="copy" @click="copy">
          {{ copied ? 'Copied' : 'Copy it' }}
        </button>
        <RouterLink
          v-if="address.total"
          :to="{ name: 'search', query: { line: lineOf(address.address), order: 'time' } }"
          >Show its mail</RouterLink
        >
      </p>
      <fieldset class="purposes" :disabled="busy">
        <legend>It is</legend>
        <label v-for="one in PURPOSES" :key="one.value">
          <input
            type="radio"
            class="form-check-input"
            name="purpose"
            :value="one.value"
            :checked="address.purpose === one.value"
            @change="say(one.value)"
          />
          {{ one.title }}
          <span class="note">{{ one.about }}</span>
        </label>
      </fieldset>
      <form @submit.prevent="keepNote">
        <label for="given-to">Given to</label>
        <input
          id="given-to"
          v-model="note"
          class="form-control"
          maxlength="200"
          placeholder="Corvane, corvane.example"
          @blur="keepNote"
        />
      </form>
      <div v-if="address.leak" class="about-leak">
        <h3>{{ isGiven(address) ? 'Somebody else has it' : 'First unwanted mail' }}</h3>
        <p>
          <RouterLink
            :to="{
              name: 'search',
              params: { message: address.leak.message },
              query: { line: lineOf(address.address), order: 'time' },
            }"
            ><bdi>{{ address.leak.organisation }}</bdi></RouterLink
          >, <time :title="exact(address.leak.at)">{{ near(address.leak.at) }}</time>
        </p>
        <p class="note">By what its sender says of itself.</p>
      </div>
      <p v-if="problem" role="alert" class="troubled">{{ problem }}</p>
      <p v-if="address.made_at || address.given_to || address.purpose" class="about-end">
        <button type="button" class="quiet-button" :disabled="busy" data-act="forget" @click="drop">
          Forget what is said of it
        </button>
      </p>
    </template>
  </aside>
</template>
