<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import StateMark from '@/components/StateMark.vue'
import { useKeys } from '@/lib/keys'
import { stepName } from '@/lib/plan'
import { t } from '@/lib/words'

/** Steps that stand or fall together, told by one tap; what is not done yet is taken out first. */
const props = defineProps<{ steps: Schemas['PlanStep'][] }>()
const emit = defineEmits<{ done: [string[]] }>()
const not = ref<string[]>([])
/** Taken out is also what rests on a step that is taken out. */
const out = computed(() => {
  const ids: string[] = []
  for (const s of props.steps) if (not.value.includes(s.id) || s.needs.some((n) => ids.includes(n))) ids.push(s.id)
  return ids
})
const told = computed(() => props.steps.map((s) => s.id).filter((id) => !out.value.includes(id)))
function flip(id: string) {
  not.value = not.value.includes(id) ? not.value.filter((x) => x !== id) : [...not.value, id]
}
const tell = () => told.value.length > 1 && emit('done', told.value)
useKeys({ a: tell })
</script>

<template>
  <section class="field" data-testid="together">
    <header>
      <h2>{{ t('ui.together') }}</h2>
      <span class="small">{{ t('ui.together_except') }}</span>
    </header>
    <div class="list">
      <button
        v-for="s in steps"
        :key="s.id"
        type="button"
        class="row-tap"
        role="checkbox"
        :aria-checked="!out.includes(s.id)"
        :data-testid="'with-' + s.id"
        @click="flip(s.id)"
      >
        <StateMark :state="out.includes(s.id) ? 'open' : 'done'" />
        <span>{{ stepName(s) }}</span>
      </button>
    </div>
    <button type="button" class="tap main all" :disabled="told.length < 2" data-testid="tell-together" @click="tell">
      {{ t('ui.together_done', { n: told.length }) }}
    </button>
  </section>
</template>

<style scoped>
.list {
  display: grid;
}
.row-tap {
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 48px;
  padding: 6px 4px;
  border: 0;
  border-bottom: 1px solid var(--rule-soft);
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.row-tap[aria-checked='false'] span {
  text-decoration: line-through;
}
.all {
  margin-top: 12px;
  width: 100%;
  min-height: 60px;
  font-size: 19px;
}
</style>
