<script setup lang="ts">
import { NInput } from 'naive-ui'
import { ref } from 'vue'
import type { EventData } from '@/stores/outbox'
import NumField from '@/components/NumField.vue'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** What the meter reads after the wait, and who of the trained people proved it. */
const props = defineProps<{ most: number }>()
const emit = defineEmits<{ tick: [EventData] }>()
const volts = ref<number | null>(null)
const trained = ref(useSession().user?.display ?? '')
</script>

<template>
  <div class="cols">
    <NumField
      v-model="volts"
      name="v"
      unitless
      :label="t('ui.volts') + ' (V)'"
      v-bind="{ min: 0, max: props.most }"
      testid="volts"
    />
    <label
      ><span class="small">{{ t('ui.trained_by') }}</span>
      <NInput v-model:value="trained" placeholder="" data-testid="trained" />
    </label>
    <button
      type="button"
      class="tap main"
      :disabled="volts == null || !trained.trim()"
      data-testid="volts-tick"
      @click="emit('tick', { volts: volts!, trained })"
    >
      {{ t('ui.step_done') }}
    </button>
  </div>
</template>
