<script setup lang="ts">
import { ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { api, ask, type Schemas, type System } from '@/api/client'
import { dayText } from '@/lib/when'
import { t } from '@/lib/words'

/** A plate the shop knows: its page, and its system as it was last corrected. Without a server nothing is offered. */
const props = defineProps<{ plate: string; job: string }>()
const emit = defineEmits<{ take: [string, System, string] }>()
const known = ref<Schemas['ServerVehicleView'] | null>(null)
const key = (s: string) => s.replace(/[^\p{L}\p{N}]/gu, '').toUpperCase()
watch(
  () => props.plate,
  async (plate) => {
    known.value = null
    if (key(plate).length < 3) return
    try {
      const found = await ask(api.GET('/api/vehicles', { params: { query: { text: plate } } }))
      const v = found.find((x) => key(x.plate) === key(plate))
      if (v) known.value = await ask(api.GET('/api/vehicles/{id}', { params: { path: { id: v.id } } }))
    } catch {
      known.value = null
    }
  },
  { immediate: true },
)
const before = () => (known.value?.jobs ?? []).filter((j) => j.id !== props.job)
</script>

<template>
  <p v-if="known && before().length" class="row" data-testid="known-vehicle">
    <RouterLink class="tap" :to="`/vehicles/${known.id}`">{{
      t('ui.been_here', { n: before().length, date: dayText(before()[0]!.opened_at) })
    }}</RouterLink>
    <button
      v-if="known.system"
      type="button"
      class="tap"
      @click="emit('take', known.pattern, known.system, known.pedal_from)"
    >
      {{ t('ui.take_system') }}
    </button>
  </p>
</template>
