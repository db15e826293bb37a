<script setup lang="ts">
import { APPEARANCE, appearance, order, theme } from '../composables/settings'

function asItCame(): void {
  theme.value = 'auto'
  appearance.value = { ...APPEARANCE, bySource: appearance.value.bySource }
}
</script>

<template>
  <div class="settings">
    <h2>Appearance</h2>
    <label for="theme">Theme</label>
    <BFormSelect id="theme" v-model="theme">
      <option value="auto">as the system</option>
      <option value="light">light</option>
      <option value="dark">dark</option>
    </BFormSelect>
    <label for="reading">Reading</label>
    <BFormSelect id="reading" v-model="appearance.reading">
      <option value="side">beside the list</option>
      <option value="below">below the list</option>
      <option value="off">on a page of its own</option>
    </BFormSelect>
    <label for="text-size">Size of text</label>
    <BFormSelect id="text-size" v-model.number="appearance.textSize">
      <option :value="90">90 %</option>
      <option :value="100">100 %</option>
      <option :value="115">115 %</option>
      <option :value="135">135 %</option>
      <option :value="160">160 %</option>
    </BFormSelect>
    <label for="order">Order of lists</label>
    <BFormSelect id="order" v-model="order">
      <option value="importance">by importance</option>
      <option value="time">newest first</option>
    </BFormSelect>
    <label for="density">Rows</label>
    <BFormSelect id="density" v-model="appearance.density">
      <option value="two">of two lines</option>
      <option value="one">of one line</option>
    </BFormSelect>
    <label for="names">Senders</label>
    <BFormSelect id="names" v-model="appearance.names">
      <option value="name">by name</option>
      <option value="address">by address</option>
      <option value="both">by both</option>
    </BFormSelect>
    <label for="counts">Counts of the band</label>
    <BFormSelect id="counts" v-model="appearance.counts">
      <option value="unread">unread messages</option>
      <option value="all">all messages</option>
    </BFormSelect>
    <label for="after">After a verdict, go to</label>
    <BFormSelect id="after" v-model="appearance.after">
      <option value="next">the next message</option>
      <option value="previous">the previous message</option>
      <option value="list">the list</option>
    </BFormSelect>
    <label for="mark-read">Mail you pass counts as read</label>
    <BFormSelect id="mark-read" v-model="appearance.markRead">
      <option value="at once">at once</option>
      <option value="after a while">after three seconds</option>
      <option value="by hand">by hand alone</option>
    </BFormSelect>
    <BFormCheckbox v-model="appearance.gauge">Gauge in every row</BFormCheckbox>
    <BFormCheckbox v-model="appearance.attachments">Attachments counted in every row</BFormCheckbox>
    <BFormCheckbox v-model="appearance.unreadFirst">Unread before read</BFormCheckbox>
    <BFormCheckbox v-model="appearance.byDay">Days as headings, where the newest come first</BFormCheckbox>
    <BFormCheckbox v-model="appearance.threads">The thread with its message</BFormCheckbox>
    <p><button type="button" class="quiet-button" @click="asItCame">As it came</button></p>
  </div>
</template>
