<script setup lang="ts">
import StateMark from '@/components/StateMark.vue'
import type { Schemas } from '@/api/client'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** Bled on the vehicle: the pedal propped, each port cracked and closed before the prop is let go. */
defineProps<{ ports: Schemas['JobPortCracks'][] }>()
const store = useJob()
const crack = (port: string, clear: boolean) => store.send('port_cracked', { port, clear })
</script>

<template>
  <p class="caution">{{ t('caution.prop_loaded') }}</p>
  <div v-for="p in ports" :key="p.port" class="row">
    <StateMark :state="p.done ? 'ok' : 'missing'" />
    <strong>{{ t('ui.port_named', { port: p.port }) }}</strong>
    <span class="fig" :data-testid="'cracks-' + p.port">{{ p.count }} / {{ p.of }}</span>
    <button type="button" class="tap" :data-testid="'crack-' + p.port" @click="crack(p.port, false)">
      {{ t('ui.cracked') }}
    </button>
    <button type="button" class="tap" :data-testid="'crack-clear-' + p.port" @click="crack(p.port, true)">
      {{ t('ui.cracked_clear') }}
    </button>
  </div>
</template>
