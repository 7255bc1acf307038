<script setup lang="ts">
import SheetBox from '@/components/SheetBox.vue'
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'
import { decimalMark } from '@/lib/units'
import { t } from '@/lib/words'

const props = defineProps<{ title: string; unit: string; start: string }>()
const emit = defineEmits<{ close: []; done: [string] }>()
const text = ref('')
const mark = decimalMark()
const keys = ['7', '8', '9', '4', '5', '6', '1', '2', '3', mark, '0', '/']
function press(k: string) {
  text.value += k
}
/** While the pad is open the keyboard is its own: a digit must not open another station. */
useEventListener(
  window,
  'keydown',
  (e: KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey) return
    if (keys.includes(e.key)) press(e.key)
    else if (e.key === ',' || e.key === '.') press(mark)
    else if (e.key === 'Backspace') text.value = text.value.slice(0, -1)
    else if (e.key === 'Enter') done()
    else if (e.key === 'Escape') emit('close')
    else return
    e.preventDefault()
    e.stopImmediatePropagation()
  },
  { capture: true },
)
function done() {
  emit('done', text.value === '' ? props.start : text.value)
  emit('close')
}
</script>

<template>
  <SheetBox :show="true" :title="title" :width="360" @update:show="emit('close')">
    <p class="read fig">
      {{ text || start || '–' }} <small>{{ unit }}</small>
    </p>
    <div class="pad">
      <button v-for="k in keys" :key="k" type="button" class="tap fig" @click="press(k)">{{ k }}</button>
      <button type="button" class="tap" @click="text = text.startsWith('-') ? text.slice(1) : '-' + text">±</button>
      <button type="button" class="tap" :aria-label="t('ui.backspace')" @click="text = text.slice(0, -1)">⌫</button>
      <button type="button" class="tap main" @click="done">{{ t('ui.take') }}</button>
    </div>
  </SheetBox>
</template>

<style scoped>
.read {
  font-size: 40px;
  border-bottom: 4px double var(--rule);
  margin-bottom: 12px;
}
.pad {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px;
}
.pad .tap {
  min-height: 68px;
  font-size: 26px;
}
.pad .main {
  font-size: 20px;
  padding: 0;
}
</style>
