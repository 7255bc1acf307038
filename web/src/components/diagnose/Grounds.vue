<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { t, times } from '@/lib/words'

/** What the verdict rests on, and what would stand without a finding: each can be switched off to see. */
const props = defineProps<{ result: Schemas['DiagnoseResult']; findings: string[]; off: string[] }>()
const emit = defineEmits<{ off: [string[]] }>()
function toggle(id: string) {
  emit('off', props.off.includes(id) ? props.off.filter((x) => x !== id) : [...props.off, id])
}
const fault = (r: Schemas['DiagnoseRest']) =>
  r.fault ? t('fault_id.' + r.fault) + (r.at ? `, ${r.at}` : '') : t('fault_id.healthy')
const rests = computed(() => props.result.rests_on)
</script>

<template>
  <details class="grounds" data-testid="grounds">
    <summary>{{ t('ui.rests_on') }}</summary>
    <ul v-if="result.carries.length" data-testid="carries">
      <li v-for="c in result.carries" :key="c.finding">
        <strong>{{ t('finding.' + c.finding) }}{{ c.value ? ': ' + t('value.' + c.value) : '' }}</strong
        >, {{ t('ui.times_for', { times: times(c.times) }) }}
      </li>
    </ul>
    <p v-if="!rests.length" class="small">{{ t('ui.rests_on_none') }}</p>
    <ul v-else>
      <li v-for="r in rests" :key="r.finding">
        {{
          t('ui.rests_on_row', {
            finding: t('finding.' + r.finding),
            action: t('action.' + r.action),
            fault: fault(r),
            percent: Math.round(100 * r.probability),
          })
        }}
      </li>
    </ul>
    <p class="small">{{ t('ui.what_if_note') }}</p>
    <div class="row">
      <button
        v-for="f in findings"
        :key="f"
        type="button"
        class="tap"
        :class="{ off: off.includes(f) }"
        :aria-pressed="!off.includes(f)"
        :data-testid="'what-if-' + f"
        @click="toggle(f)"
      >
        {{ t('finding.' + f) }} <span class="small">{{ t(off.includes(f) ? 'ui.what_if_off' : 'ui.what_if_on') }}</span>
      </button>
    </div>
  </details>
</template>

<style scoped>
.grounds {
  margin-top: 10px;
  border-top: 1px solid var(--rule-soft);
}
summary {
  min-height: var(--touch);
  display: flex;
  align-items: center;
  cursor: pointer;
  font-weight: 600;
}
ul {
  margin: 0 0 8px;
  padding-left: 20px;
}
.off {
  text-decoration: line-through;
  border-style: dashed;
}
.tap[aria-pressed='true'] .small {
  color: inherit;
}
</style>
