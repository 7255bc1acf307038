<script setup lang="ts">
import { NInput } from 'naive-ui'
import type { Unit } from '@/api/client'
import { t } from '@/lib/words'

/** Maker and number, as the box has them. */
defineProps<{ unit: Unit; testid: string }>()
defineEmits<{ change: [Partial<Unit>] }>()
</script>

<template>
  <div class="cols">
    <label v-for="k in ['maker', 'number'] as const" :key="k"
      ><span class="small">{{ t('ui.' + k) }}</span
      ><NInput
        :value="unit[k]"
        placeholder=""
        :data-testid="`${testid}-${k}`"
        @update:value="(v: string) => $emit('change', { [k]: v })"
    /></label>
  </div>
</template>
