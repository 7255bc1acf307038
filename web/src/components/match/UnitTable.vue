<script setup lang="ts">
import { money } from '@/lib/units'
import { useJob } from '@/stores/job'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import Fig from '@/components/Fig.vue'
import Said from '@/components/terms/Said.vue'
import StateMark from '@/components/StateMark.vue'
import { has, t } from '@/lib/words'

/** The units side by side: a column each, a row for each point compared, what differs lit. */
type C = Schemas['JobCandidateView']
const props = defineProps<{ list: C[]; shown: string | undefined }>()
defineEmits<{ show: [string]; choose: [C] }>()
const all = ref(false)
const best = computed(() =>
  props.list.some((c) => c.chosen) ? undefined : props.list.find((c) => c.verdict !== 'does_not_fit'),
)
const ids = computed(() => [...new Set(props.list.flatMap((c) => c.points.map((p) => p.id)))])
const point = (c: C, id: string) => c.points.find((p) => p.id === id)
const differs = (id: string) => props.list.some((c) => (point(c, id)?.verdict ?? 'same') !== 'same')
const rows = computed(() => ids.value.filter((id) => all.value || differs(id)))
/** The new unit's own figure of a point, where it is one: its unit is in its name. */
function figure(p: Schemas['MatchPoint']): { unit: string; value: number } | null {
  for (const [k, v] of Object.entries(p.with ?? {})) {
    const unit = /^(?:new|value)_([a-z0-9]+)$/.exec(k)?.[1]
    if (unit && typeof v === 'number') return { unit, value: v }
  }
  return null
}
function word(p: Schemas['MatchPoint']): string {
  const v = p.with?.new ?? p.with?.value
  if (typeof v === 'number') return String(v)
  if (typeof v !== 'string' || v === '') return t('verdict.' + p.verdict)
  return has('spec.' + v) ? t('spec.' + v) : v
}
const currency = useJob().dress?.settings?.currency
</script>

<template>
  <div class="scroll" tabindex="0" role="region" :aria-label="t('ui.shelf')">
    <table>
      <thead>
        <tr>
          <td></td>
          <th
            v-for="c in list"
            :key="c.unit.id"
            scope="col"
            :class="{ here: shown === c.unit.id }"
            :data-testid="'unit-' + c.unit.id"
          >
            <button
              type="button"
              class="tap bare name"
              :aria-pressed="shown === c.unit.id"
              :data-testid="'show-' + c.unit.id"
              @click="$emit('show', c.unit.id)"
            >
              {{ c.unit.maker }}<br />{{ c.unit.number }}
            </button>
          </th>
        </tr>
        <tr>
          <th scope="row">{{ t('ui.it_fits') }}</th>
          <td v-for="c in list" :key="c.unit.id" :class="{ here: shown === c.unit.id }">
            <strong class="verdict" :class="c.verdict" :data-testid="'verdict-' + c.unit.id"
              ><StateMark :state="c.verdict" /> {{ t('unit_verdict.' + c.verdict) }}</strong
            >
            <button
              type="button"
              class="tap"
              :class="{ main: c === best && !c.chosen }"
              :disabled="c.verdict === 'does_not_fit'"
              :aria-pressed="c.chosen"
              :aria-label="`${t(c.chosen ? 'ui.chosen' : 'ui.choose')}: ${c.unit.maker} ${c.unit.number}`"
              :data-testid="'choose-' + c.unit.id"
              @click="$emit('choose', c)"
            >
              {{ t(c.chosen ? 'ui.chosen' : 'ui.choose') }}
            </button>
          </td>
        </tr>
      </thead>
      <tbody>
        <tr v-for="id in rows" :key="id">
          <th scope="row"><Said :text="t('point.' + id)" /></th>
          <td
            v-for="c in list"
            :key="c.unit.id"
            :class="['cell', point(c, id)?.verdict ?? 'none', { here: shown === c.unit.id }]"
          >
            <template v-if="point(c, id)">
              <StateMark :state="point(c, id)!.verdict" />
              <Fig
                v-if="figure(point(c, id)!)"
                :name="figure(point(c, id)!)!.unit"
                :value="figure(point(c, id)!)!.value"
              />
              <span v-else>{{ word(point(c, id)!) }}</span>
            </template>
          </td>
        </tr>
        <tr>
          <th scope="row">{{ t('ui.cost') }}</th>
          <td v-for="c in list" :key="c.unit.id" class="fig" :class="{ here: shown === c.unit.id }">
            {{ money(c.unit.price ?? 0, currency) }} + {{ money(c.unit.core ?? 0, currency) }}
          </td>
        </tr>
      </tbody>
    </table>
  </div>
  <button
    v-if="ids.length > rows.length || all"
    type="button"
    class="tap bare"
    data-testid="all-points"
    :aria-pressed="all"
    @click="all = !all"
  >
    {{ t(all ? 'ui.only_differences' : 'ui.all_points', { count: ids.length }) }}
  </button>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
table {
  width: max-content;
  min-width: 100%;
}
th[scope='row'],
thead td:first-child {
  position: sticky;
  left: 0;
  background: var(--sheet);
  max-width: 150px;
  z-index: 1;
}
th,
td {
  padding: 6px 10px;
  border-bottom: 1px solid var(--rule-soft);
  vertical-align: middle;
  text-align: left;
  max-width: 170px;
}
.here {
  border-left: 4px double var(--ink);
  border-right: 4px double var(--ink);
}
.name {
  text-align: left;
  padding: 4px 6px;
  justify-content: flex-start;
  color: inherit;
  font-weight: 600;
}
.name[aria-pressed='true'] {
  color: var(--sheet);
}
.verdict {
  display: flex;
  gap: 6px;
  align-items: center;
  margin-bottom: 6px;
}
.tap.main {
  font-size: 17px;
  padding: 6px 18px;
}
.cell.does_not_fit {
  background: var(--bad-bg);
}
.cell.fits_with,
.cell.changes_pedal,
.cell.unknown {
  background: var(--warn-bg);
}
.does_not_fit {
  color: var(--bad);
}
</style>
