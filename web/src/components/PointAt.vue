<script setup lang="ts">
import { computed } from 'vue'
import type { System } from '@/api/client'
import { layout } from '@/lib/schematic'
import { t } from '@/lib/words'

/** Places on the drawing from above that can be tapped: each wheel, the cylinder, the booster. */
const props = defineProps<{ system: System }>()
defineEmits<{ pick: [string] }>()
const wide = 460
const high = 386
const spots = computed(() => {
  const l = layout(props.system)
  const c = l.cylinder
  const cylinder = { id: 'cylinder', label: t('group.cylinder'), x: c.x, y: c.y + (c.secondary + c.primary) / 2 }
  const booster = { id: 'booster', label: t('group.booster'), x: c.x, y: c.y + c.secondary + c.primary + 26 }
  return [
    ...l.wheels.map((w) => ({ id: w.id, label: t('ui.wheel', { id: w.id }), x: w.x, y: w.y })),
    cylinder,
    ...((props.system.booster?.kind ?? 'none') === 'none' ? [] : [booster]),
  ].map((s) => ({ ...s, style: { left: `${(100 * s.x) / wide}%`, top: `${(100 * s.y) / high}%` } }))
})
</script>

<template>
  <div class="over">
    <slot />
    <button
      v-for="s in spots"
      :key="s.id"
      type="button"
      class="spot"
      :aria-label="s.label"
      :title="s.label"
      :style="s.style"
      :data-testid="'point-' + s.id"
      @click="$emit('pick', s.id)"
    />
  </div>
</template>

<style scoped>
.over {
  position: relative;
}
.spot {
  position: absolute;
  width: 48px;
  height: 48px;
  min-height: 48px;
  transform: translate(-50%, -50%);
  background: transparent;
  border: 2px dotted transparent;
  border-radius: 50%;
  cursor: pointer;
}
.spot:hover,
.spot:focus-visible {
  border-color: var(--ink);
}
</style>
