<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The way to a figure by the phone in the hand. What it takes is loaded when it is wanted. */
const props = defineProps<{ what: 'tilt' | 'pedal' }>()
const emit = defineEmits<{ take: [number] }>()
const session = useSession()
const tools = {
  tilt: defineAsyncComponent(() => import('./PhoneTilt.vue')),
  pedal: defineAsyncComponent(() => import('./PhonePedal.vue')),
}
const seconds = computed(() => (props.what === 'tilt' ? session.vocabulary?.tilt_s : session.vocabulary?.rest_s) ?? 0)
const open = ref(false)
</script>

<template>
  <button type="button" class="tap bare" data-testid="by-phone" @click="open = true">{{ t('phone.by') }}</button>
  <component
    :is="tools[what]"
    v-if="open"
    :seconds="seconds"
    @close="open = false"
    @take="(v: number) => emit('take', v)"
  />
</template>
