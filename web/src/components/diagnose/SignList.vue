<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import type { Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import FindingInput from '@/components/diagnose/FindingInput.vue'
import type { Known } from '@/lib/findings'
import { usePointed } from '@/lib/shown'
import { t } from '@/lib/words'

/** The signs by where one stands, most telling first; what was told already stays with the first ones. */
const props = defineProps<{
  view: Schemas['JobDiagnoseView']
  kinds: Schemas['ServerFindingKind'][]
  known: Record<string, Known>
}>()
const emit = defineEmits<{ find: [id: string, value: unknown, sure?: boolean] }>()
const places = ['owner', 'seat_off', 'seat_on', 'hood', 'wheels', 'tool', 'bench'] as const
const at = ref<string>('first')
const text = ref('')
const usable = computed(() =>
  props.view.signs
    .map((id) => props.kinds.find((k) => k.id === id)!)
    .filter((k) => k && k.shape !== 'gauge' && k.shape !== 'looked')
    .map((k) => ({ ...k, values: props.view.values[k.id] ?? k.values })),
)
const tabs = computed(() => [
  { id: 'first', label: t('ui.first_signs') },
  ...places
    .filter((p) => usable.value.some((k) => k.where === p))
    .map((p) => {
      const told = usable.value.filter((k) => k.where === p && k.id in props.known).length
      return { id: p as string, label: t('where.' + p) + (told ? ` ${told}` : '') }
    }),
])
const words = (k: Schemas['ServerFindingKind']) =>
  [t('finding.' + k.id), ...k.values.map((v) => t('value.' + v))].join(' ').toLowerCase()
/** While someone taps, the list keeps the order it had: what is reached for must not move away. */
const order = ref<string[]>([])
const shown = computed(() => {
  const want = text.value.trim().toLowerCase()
  if (want) return usable.value.filter((k) => words(k).includes(want))
  if (at.value === 'all') return usable.value
  if (at.value !== 'first') return usable.value.filter((k) => k.where === at.value)
  const first = props.view.first
  const rank = (id: string) => (first.includes(id) ? first.indexOf(id) : first.length)
  return usable.value.filter((k) => first.includes(k.id) || k.id in props.known).sort((a, b) => rank(a.id) - rank(b.id))
})
const steady = computed(() => {
  const seen = (id: string) => (order.value.includes(id) ? order.value.indexOf(id) : order.value.length)
  return order.value.length ? [...shown.value].sort((a, b) => seen(a.id) - seen(b.id)) : shown.value
})
function go(to: string) {
  order.value = []
  at.value = to
  text.value = ''
}
function find(id: string, value: unknown, sure?: boolean) {
  if (!order.value.length) order.value = shown.value.map((k) => k.id)
  emit('find', id, value, sure)
}
const pointed = usePointed()
watch(
  () => pointed.n,
  () => go(pointed.part === 'cylinder' || pointed.part === 'booster' ? 'hood' : 'wheels'),
)
const looked = computed(() => props.known['looked.at']?.value as string[] | undefined)
</script>

<template>
  <div class="row by">
    <Choice :value="text ? '' : at" :options="tabs" testid="where" @pick="(v) => v && go(v)" />
    <button
      type="button"
      class="tap"
      :aria-pressed="at === 'all'"
      data-testid="all-findings"
      @click="go(at === 'all' ? 'first' : 'all')"
    >
      {{ t('ui.all_findings') }}
    </button>
    <NInput
      v-model:value="text"
      clearable
      class="search"
      :placeholder="t('ui.find_sign')"
      :input-props="{ 'aria-label': t('ui.find_sign'), type: 'search' }"
      data-testid="find-sign"
    />
  </div>
  <p v-if="!steady.length">{{ t('ui.none_found') }}</p>
  <FindingInput
    v-for="k in steady"
    :key="k.id"
    :kind="k"
    :value="known[k.id]?.value"
    :sure="known[k.id]?.sure ?? true"
    :looked="looked"
    @find="(v) => find(k.id, v)"
    @looked="(v) => find('looked.at', v, true)"
    @sure="(s) => find(k.id, known[k.id]?.value, s)"
  />
</template>

<style scoped>
.by {
  margin-bottom: 8px;
  gap: 6px;
}
.by :deep(.tap) {
  padding: 4px 11px;
  font-size: 16px;
}
/* On a phone the places are one row that is pushed along, not five that push the signs down. */
@media (max-width: 620px) {
  .by :deep(.choice) {
    flex: 1 1 100%;
  }
  .by :deep(.choice .row) {
    flex-wrap: nowrap;
    overflow-x: auto;
    scrollbar-width: none;
  }
  .by :deep(.choice .tap) {
    flex: none;
  }
}
.search {
  flex: 1 1 160px;
  max-width: 280px;
}
</style>
