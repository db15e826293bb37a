<script setup lang="ts">
import { computed } from 'vue'
import TrialFigures from '../components/TrialFigures.vue'
import { usePlaces } from '../composables/places'
import { useTrial } from '../composables/trial'
import { bytes } from '../lib/time'
import { shown } from '../lib/gauge'
import { subjectOf } from '../lib/words'

const { titles, takers } = usePlaces()
const { trial, progress, running, path, folders, correct, problem, look, start, stop } = useTrial()
const known = computed(() => takers.value.map((place) => place.name))
const named = computed(() => folders.value.filter((one) => one.place).length)
const unit = (count: number) =>
  progress.value?.state === 'reading' ? bytes(count) : `${count} ${count === 1 ? 'message' : 'messages'}`
</script>

<template>
  <div class="page">
    <header class="page-head">
      <h1>Try it on your archive</h1>
      <p>
        Your folders say what belongs where; the mail is passed through a fresh engine in order of its dates,
        as if it arrived now. Nothing is stored, and the engine in use is not touched.
      </p>
    </header>
    <form class="try-path" @submit.prevent="look">
      <label for="archive">Path of an mbox, a Maildir or a folder of these on this machine</label>
      <div class="try-line">
        <BFormInput id="archive" v-model="path" placeholder="~/mail" spellcheck="false" autocomplete="off" />
        <button type="submit" class="plain-button" :disabled="!path || running">Try it</button>
      </div>
    </form>
    <p v-if="problem" class="page-problem" role="alert">{{ problem }}</p>
    <form v-if="folders.length && !running" class="try-folders" @submit.prevent="start">
      <table class="ledger">
        <thead>
          <tr>
            <th>Folder</th>
            <th class="number">Size</th>
            <th>Mail in it belongs in</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="folder in folders" :key="folder.name">
            <td>
              <bdi>{{ folder.name }}</bdi>
            </td>
            <td class="number">{{ bytes(folder.size) }}</td>
            <td>
              <BFormSelect
                v-model="folder.place"
                size="sm"
                :aria-label="`Where mail of ${folder.name} belongs`"
              >
                <option value="">do not use it</option>
                <option v-for="name in known" :key="name" :value="name">{{ titles[name] }}</option>
                <option
                  v-if="folder.suggested && !known.includes(folder.suggested)"
                  :value="folder.suggested"
                >
                  a bucket of its own: {{ folder.suggested }}
                </option>
              </BFormSelect>
            </td>
          </tr>
        </tbody>
      </table>
      <label for="correct">How many mistakes you would correct</label>
      <div class="try-line">
        <BFormSelect id="correct" v-model="correct" class="try-share">
          <option :value="1">every one</option>
          <option :value="0.3">three in ten</option>
          <option :value="0.1">one in ten</option>
        </BFormSelect>
        <button type="submit" class="plain-button" :disabled="named === 0">Try it</button>
      </div>
    </form>
    <div v-if="running && progress" class="progress-line" role="status">
      <span>
        {{ progress.state === 'reading' ? 'Reading' : 'Replaying' }}: {{ unit(progress.done) }} of
        {{ unit(progress.of) }}
      </span>
      <progress :value="progress.done" :max="Math.max(1, progress.of)" aria-label="Trial" />
      <button type="button" class="quiet-button" @click="stop">Stop</button>
    </div>
    <p v-else-if="trial?.state === 'failed'" class="page-problem" role="alert">{{ trial.error }}</p>
    <template v-if="trial?.state === 'done' && trial.figures">
      <TrialFigures :figures="trial.figures" :titles="titles" />
      <section v-if="trial.wrong.length">
        <h3>The mistakes that would have cost most</h3>
        <table class="ledger">
          <thead>
            <tr>
              <th>Sender</th>
              <th>Subject</th>
              <th class="number">Score</th>
              <th>Would stand in</th>
              <th>Belongs in</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(one, at) in trial.wrong" :key="at">
              <td>
                <bdi>{{ one.sender }}</bdi>
              </td>
              <td>
                <bdi>{{ subjectOf(one.subject) }}</bdi>
              </td>
              <td class="number">{{ shown(one.score) }}</td>
              <td>{{ titles[one.place] ?? one.place }}</td>
              <td>{{ titles[one.belongs] ?? one.belongs }}</td>
            </tr>
          </tbody>
        </table>
      </section>
    </template>
  </div>
</template>
