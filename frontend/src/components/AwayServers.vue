<script setup lang="ts">
import { computed, ref } from 'vue'
import type { AwayNotice } from '../api/client'
import { useAttempt } from '../composables/attempt'
import { useAway, useDifferences } from '../composables/away'

const props = defineProps<{ notice: AwayNotice }>()

const { answerAt } = useAway()
const { attempt, busy, problem } = useAttempt()
const account = ref(0)
const { data: differences, error } = useDifferences(account)
const asked = computed(() => props.notice.servers.find((one) => one.account === account.value))

async function turn(number: number, on: boolean): Promise<void> {
  if (await attempt(() => answerAt(number, on))) account.value = 0
}
</script>

<template>
  <section v-if="notice.servers.length" aria-label="At a server">
    <h2>At a server</h2>
    <p class="note">Where a mailbox’s server runs Sieve, it can send the notice while this machine is off.</p>
    <ul class="away-servers">
      <li v-for="one in notice.servers" :key="one.account">
        <bdi>{{ one.address }}</bdi>
        <template v-if="one.answers">
          {{
            one.current
              ? 'its server answers, and nothing is sent from here'
              : 'its server may answer still, but not as it was put there: put it there again, or'
          }}
          <button type="button" class="quiet-button" :disabled="busy" @click="turn(one.account, false)">
            Answer from here again
          </button>
        </template>
        <button v-else type="button" class="quiet-button" @click="account = one.account">
          What its server would do
        </button>
        <span v-if="one.problem" class="rule-broken" role="alert">{{ one.problem }}</span>
      </li>
    </ul>
    <div v-if="asked" class="away-differences">
      <p v-if="error" class="page-problem" role="alert">{{ error.message }}</p>
      <template v-else-if="differences">
        <p>
          The server of <bdi>{{ asked.address }}</bdi> answers the same people, but for this:
        </p>
        <ul>
          <li v-for="one in differences" :key="one.what">
            <strong>{{ one.what }}</strong> {{ one.why }}
          </li>
        </ul>
        <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
        <button
          type="button"
          class="plain-button"
          :disabled="busy || !notice.on"
          @click="turn(asked.account, true)"
        >
          Let the server answer
        </button>
        <span v-if="!notice.on" class="note">Turn the notice on first.</span>
      </template>
    </div>
  </section>
</template>
