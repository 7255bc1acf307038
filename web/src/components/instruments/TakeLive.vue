<script setup lang="ts">
import { computed } from 'vue'
import { liveOf, ofKind, type Kind } from '@/lib/figures'
import { figure } from '@/lib/units'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The figure an instrument tells now, beside the field that wants it: one tap takes it. */
const props = defineProps<{ kind: Kind }>()
const emit = defineEmits<{ take: [number] }>()
const session = useSession()
const i = computed(() => ofKind(props.kind))
const f = computed(() => liveOf(props.kind))
</script>

<template>
  <button v-if="i && f" type="button" class="tap" :data-testid="'take-' + kind" @click="emit('take', f.v)">
    {{ t('instrument.take') }} <strong class="fig">{{ figure(i.measure.ours, f.v, session.pref) }}</strong>
  </button>
</template>
