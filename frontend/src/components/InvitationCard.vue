<script setup lang="ts">
import type { Invitation } from '../api/client'
import { lasting } from '../lib/time'

defineProps<{ invitation: Invitation }>()
const SHOWN = 8
</script>

<template>
  <section class="invitation" aria-label="Invitation">
    <p class="invitation-kind">{{ invitation.kind }}</p>
    <h3 dir="auto">{{ invitation.title }}</h3>
    <dl>
      <dt>When</dt>
      <dd>
        {{ lasting(invitation.start, invitation.end, invitation.all_day)
        }}<template v-if="invitation.repeats">, and again</template>
      </dd>
      <template v-if="invitation.place">
        <dt>Where</dt>
        <dd>
          <bdi>{{ invitation.place }}</bdi>
        </dd>
      </template>
      <template v-if="invitation.organiser">
        <dt>By</dt>
        <dd>
          <bdi>{{ invitation.organiser }}</bdi>
        </dd>
      </template>
      <template v-if="invitation.attendees.length">
        <dt>With</dt>
        <dd>
          <bdi>{{ invitation.attendees.slice(0, SHOWN).join(', ') }}</bdi>
          <template v-if="invitation.attendees.length > SHOWN">
            and {{ invitation.attendees.length - SHOWN }} more</template
          >
        </dd>
      </template>
    </dl>
  </section>
</template>
