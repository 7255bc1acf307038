<script setup lang="ts">
import { defineAsyncComponent, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { say, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The way to a figure by a photo, and the doubt of one that was taken so. What it takes is loaded when it is wanted. */
type Field = Schemas['MatchPhotoWanted']['field']
const props = defineProps<{ field: Field; label: string; half?: number }>()
const emit = defineEmits<{ take: [{ mm: number; half: number }] }>()
const session = useSession()
const PhotoMeasure = defineAsyncComponent(() => import('./PhotoMeasure.vue'))
const open = ref(false)
</script>

<template>
  <span class="by">
    <button type="button" class="tap bare" :data-testid="'by-photo-' + props.field" @click="open = true">
      {{ t('photo.by') }}
    </button>
    <span v-if="half" class="small">{{ say('photo.doubt', { half_mm: half }, session.pref) }}</span>
  </span>
  <PhotoMeasure v-if="open" :field="field" :label="label" @close="open = false" @take="(f) => emit('take', f)" />
</template>

<style scoped>
.by {
  display: flex;
  align-items: baseline;
  gap: 8px;
}
</style>
