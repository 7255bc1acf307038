<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import type { EventData } from '@/stores/outbox'
import NumField from '@/components/NumField.vue'
import { t } from '@/lib/words'

/** The rod by touch and turn, or two rods that cannot be set compared; the core judges what is stored. */
const props = defineProps<{ kind: 'rod_touch' | 'rod_compare'; limits: Schemas['JobJointLimits'] }>()
const emit = defineEmits<{ tick: [EventData] }>()
const touch = ref<number | null>(null)
const old = ref<number | null>(null)
const fresh = ref<number | null>(null)
const ready = computed(() =>
  props.kind === 'rod_touch' ? touch.value != null : old.value != null && fresh.value != null,
)
function tick() {
  if (props.kind === 'rod_touch') emit('tick', { touch_mm: touch.value! })
  else emit('tick', { rods: { old_mm: old.value!, new_mm: fresh.value! } })
}
</script>

<template>
  <div class="cols">
    <NumField
      v-if="kind === 'rod_touch'"
      v-model="touch"
      name="mm"
      :label="t('ui.touch_left')"
      :min="-limits.touch_mm"
      :max="limits.touch_mm"
      testid="touch"
    />
    <template v-else>
      <NumField v-model="old" name="mm" bound="rods.length_mm" :label="t('ui.old_rod')" testid="old-rod" />
      <NumField v-model="fresh" name="mm" bound="rods.length_mm" :label="t('ui.new_rod')" testid="new-rod" />
    </template>
    <button type="button" class="tap main" :disabled="!ready" data-testid="rod-tick" @click="tick">
      {{ t('ui.rod_set') }}
    </button>
  </div>
</template>
