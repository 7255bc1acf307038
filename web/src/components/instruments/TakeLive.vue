<script setup lang="ts">
import { computed } from 'vue'
import { figureOf, liveOf, ofKind, remember, type Kind } from '@/lib/figures'
import { t } from '@/lib/words'

/** The figure an instrument tells now, beside the field that wants it: one tap takes it, and it is known who told it. */
const props = defineProps<{ kind: Kind }>()
const emit = defineEmits<{ take: [number] }>()
const i = computed(() => ofKind(props.kind))
const f = computed(() => liveOf(props.kind))
/** As fine as a field has it: newtons whole, all else to a tenth or a hundredth. */
const digits = computed(() =>
  props.kind === 'force' ? 1 : props.kind === 'travel' || props.kind === 'torque' ? 10 : 100,
)
function take() {
  const v = Math.round(digits.value * f.value!.v) / digits.value
  remember(i.value!, v)
  emit('take', v)
}
</script>

<template>
  <button v-if="i && f" type="button" class="tap" :data-testid="'take-' + kind" @click="take">
    {{ t('instrument.take') }} <strong class="fig">{{ figureOf(i, f.v) }}</strong>
  </button>
</template>
