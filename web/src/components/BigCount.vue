<script setup lang="ts">
import { ref, watch } from 'vue'
import { useKeys } from '@/lib/keys'
import { t } from '@/lib/words'

/** The count, read from two metres, tapped with a fist or counted with the space bar. */
const props = defineProps<{
  count: number
  of: number
  label: string
  disabled?: boolean
  waiting?: number
  gap?: number // seconds under which a second tap is the same stroke
}>()
const emit = defineEmits<{ stroke: [] }>()
let last = -Infinity
// A tap is shown at once; what the core makes of it follows, and wins.
const ahead = ref(0)
let patience: ReturnType<typeof setTimeout> | undefined
watch(
  () => props.count,
  (now, was) => (ahead.value = Math.max(0, ahead.value - Math.max(1, now - was))),
)
function showAhead() {
  ahead.value++
  clearTimeout(patience)
  patience = setTimeout(() => (ahead.value = 0), 2000)
}
// By when it was tapped, not by when a slow page gets to it: two strokes half a second apart are two.
const stroke = (e: Event) => {
  if (props.disabled) return
  const now = e.timeStamp
  if (now - last < 1000 * (props.gap ?? 0)) return
  last = now
  showAhead()
  emit('stroke')
}
useKeys({ ' ': stroke })
</script>

<template>
  <button
    type="button"
    class="count"
    data-stroke
    :disabled="disabled"
    data-testid="stroke"
    @click="stroke"
    @keydown.space.prevent
    @keyup.space.prevent
  >
    <span class="fig n" data-testid="count">{{ count + ahead }}</span>
    <span class="fig of">{{ t('ui.of', { n: of }) }}</span>
    <span class="what">{{ label }}</span>
    <!-- Its line is there whether anything is on its way or not: what stands below must not move under the hand. -->
    <span class="what small" data-testid="on-their-way">{{
      waiting ? t('ui.on_their_way', { count: waiting }) : '\u00a0'
    }}</span>
    <span class="rails" aria-hidden="true"
      ><i class="a" :style="{ width: Math.min(100, (count / Math.max(1, of)) * 100) + '%' }" /><i
        class="b"
        :style="{ width: Math.min(100, (count / Math.max(1, of)) * 100) + '%' }"
    /></span>
  </button>
</template>

<style scoped>
.count {
  width: 100%;
  min-height: 210px;
  border: 2.5px solid var(--ink);
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  cursor: pointer;
  display: grid;
  grid-template-columns: auto 1fr;
  align-items: baseline;
  column-gap: 16px;
  padding: 8px 24px 14px;
  text-align: left;
  touch-action: manipulation;
}
.count:active:not(:disabled) {
  background: var(--brass);
}
.count:disabled {
  cursor: not-allowed;
  border-color: var(--rule);
}
.n {
  font-size: 120px;
  font-weight: 600;
  line-height: 1;
}
.of {
  font-size: 40px;
}
.what {
  grid-column: 1 / -1;
  font-size: 20px;
}
.small {
  font-size: 15px;
  color: var(--ink-2);
}
.rails {
  grid-column: 1 / -1;
  display: block;
  height: 14px;
  margin-top: 8px;
}
.rails i {
  display: block;
  height: 0;
  border-top: 5px solid var(--a);
  transition: width 0.15s;
}
.rails .b {
  border-top: 5px dashed var(--b);
  margin-top: 4px;
}
</style>
