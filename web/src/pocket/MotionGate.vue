<script setup lang="ts">
import type { Sensor } from './motion'
import { t } from '@/lib/words'

/** What needs the motion sensor stands in here: before it, why it is asked for; without it, what to do by hand. */
defineProps<{ state: Sensor }>()
defineEmits<{ allow: [] }>()
</script>

<template>
  <template v-if="state === 'allow'">
    <p>{{ t('phone.why_allow') }}</p>
    <button type="button" class="tap main" data-testid="phone-allow" @click="$emit('allow')">
      {{ t('phone.allow') }}
    </button>
  </template>
  <p v-else-if="state === 'none' || state === 'refused'" role="alert" data-testid="phone-none">
    {{ t('phone.' + state) }}
  </p>
  <slot v-else />
</template>
