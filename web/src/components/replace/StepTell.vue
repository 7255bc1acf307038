<script setup lang="ts">
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { EventData } from '@/stores/outbox'
import { useKeys } from '@/lib/keys'
import { has, t } from '@/lib/words'

/** Steps told by what was seen: new and old side by side, the booster's mouth; the bleed is counted at its own station. */
const props = defineProps<{ id: string; unmeasured: string[]; chosen: boolean }>()
const emit = defineEmits<{ tick: [EventData] }>()
/** Point by point: a look stands for one point, not for nine. */
const same = ref<string[]>([])
const left = computed(() => props.unmeasured.filter((p) => !same.value.includes(p)))
const compared = computed(() => (props.unmeasured.length ? { compared: props.unmeasured } : {}))
const see = (p: string) =>
  (same.value = same.value.includes(p) ? same.value.filter((x) => x !== p) : [...same.value, p])
const tell = () => !left.value.length && emit('tick', compared.value)
const point = (p: string) => (has('point.' + p) ? t('point.' + p) : p)
const onDone = (e: KeyboardEvent) => (e.target as HTMLElement | null)?.dataset?.testid === 'tick-' + props.id
useKeys({ ' ': (e) => props.id === 'prepare.compare_on_bench' && (props.chosen || onDone(e)) && tell() })
</script>

<template>
  <RouterLink v-if="id === 'close.bleed'" class="tap main big" :to="{ name: 'bleed' }" data-testid="to-bleed">{{
    t('ui.count_at_bleed')
  }}</RouterLink>
  <RouterLink v-else-if="id === 'fit.bench_bled'" class="tap main big" :to="{ name: 'bench' }" data-testid="to-bench">{{
    t('ui.go_bench')
  }}</RouterLink>
  <div v-else-if="id === 'strip.look_in_booster'" class="row">
    <button type="button" class="tap main big" data-testid="tick-look-dry" @click="emit('tick', { seen: 'dry' })">
      {{ t('ui.look_dry') }}
    </button>
    <button type="button" class="tap big" data-testid="tick-look-wet" @click="emit('tick', { seen: 'wet' })">
      {{ t('ui.look_wet') }}
    </button>
  </div>
  <template v-else>
    <p v-if="unmeasured.length" class="small">{{ t('ui.compare_points') }}</p>
    <div v-if="unmeasured.length" class="row">
      <button
        v-for="p in unmeasured"
        :key="p"
        type="button"
        class="tap"
        :aria-pressed="same.includes(p)"
        :data-testid="'same-' + p"
        @click="see(p)"
      >
        {{ point(p) }}
      </button>
    </div>
    <button
      type="button"
      class="tap main big"
      data-stroke
      :disabled="left.length > 0"
      :data-testid="'tick-' + id"
      @click="tell"
    >
      {{ t(unmeasured.length ? 'ui.compare_seen' : 'ui.step_done') }}
    </button>
  </template>
</template>

<style scoped>
.big {
  min-height: 68px;
  font-size: 21px;
  flex: 1 1 200px;
  justify-content: center;
}
p {
  margin: 0;
}
</style>
