<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import Faults from '@/components/Faults.vue'
import TwinPanel from '@/components/TwinPanel.vue'
import GateHead from '@/components/verify/GateHead.vue'
import PlaceChecks from '@/components/verify/PlaceChecks.vue'
import { useStation } from '@/lib/station'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** The gate at the top, and under it what is read, place by place in the order one gets there. */
const { view, problem } = useStation('verify')
const store = useJob()
const session = useSession()
const next = computed(() => view.value?.to_do[0])
const places = computed(() => {
  const items = view.value?.gate.items ?? []
  return [...new Set((view.value?.places ?? []).filter((p) => p !== 'work'))]
    .map((place) => ({ place, items: items.filter((i) => i.where === place) }))
    .filter((p) => p.items.length)
})
</script>

<template>
  <Faults v-if="problem" :problem="problem" />
  <template v-if="view">
    <GateHead :view="view" />
    <PlaceChecks v-for="p in places" :key="p.place" :view="view" :place="p.place" :items="p.items" />
    <TwinPanel />
    <div class="dock row">
      <button
        v-if="!view.released"
        type="button"
        class="tap"
        :class="{ main: view.gate.passable }"
        :disabled="!view.gate.passable || !session.may('release_job')"
        data-testid="release"
        @click="store.release()"
      >
        {{ t('ui.release') }}
      </button>
      <a v-if="next && !view.released" class="tap main" :href="'#place-' + next.where" data-testid="next-check"
        >{{ t('ui.next_check') }}: {{ t('finding.' + next.id) }}</a
      >
      <RouterLink class="tap" :class="{ main: view.released }" :to="{ name: 'record' }" data-testid="to-record">{{
        t('ui.go_record')
      }}</RouterLink>
    </div>
  </template>
</template>
