<script setup lang="ts">
import type { Schemas } from '@/api/client'
import Fig from '@/components/Fig.vue'
import { say, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The foot and the pedal at three pressures, a circuit failed, assist failed: present beside chosen. */
type Performance = Schemas['MatchPerformance']
const props = defineProps<{ present: Performance; candidate: Performance | null; name: string }>()
const session = useSession()
const sides = () => (props.candidate ? [props.present, props.candidate] : [props.present])
</script>

<template>
  <table data-testid="performance">
    <thead>
      <tr>
        <th></th>
        <th scope="col">{{ t('ui.present') }}</th>
        <th v-if="candidate" scope="col">{{ name }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(a, i) in present.at" :key="a.mpa">
        <th scope="row">{{ t('ui.perf_at') }} <Fig name="mpa" :value="a.mpa" /></th>
        <td v-for="(s, k) in sides()" :key="k">
          <template v-if="s.at[i]!.force_n != null">
            <Fig name="n" :value="s.at[i]!.force_n" />, <Fig name="mm" :value="s.at[i]!.travel_mm" />
            <span class="small">{{ t('ui.perf_left') }} <Fig name="mm" :value="s.at[i]!.stroke_left_mm" /></span>
          </template>
          <span v-else class="bad">{{ t('ui.perf_not') }}</span>
        </td>
      </tr>
      <tr v-for="(f, i) in present.failed" :key="f.circuit">
        <th scope="row">{{ say('ui.perf_failed', { id: f.circuit, foot_n: present.foot_n }, session.pref) }}</th>
        <td v-for="(s, k) in sides()" :key="k">
          <Fig name="mps2" :value="s.failed[i]!.deceleration_mps2" />,
          <span v-if="s.failed[i]!.floored" class="bad">{{ t('ui.perf_floored') }}</span>
          <Fig v-else name="mm" :value="s.failed[i]!.travel_mm" />
        </td>
      </tr>
      <tr v-if="present.unassisted">
        <th scope="row">
          {{ say('ui.perf_unassisted', { foot_n: present.foot_n }, session.pref) }}<br />
          <span class="small">{{
            present.unassisted.need_mps2
              ? say('ui.perf_meets', { need_mps2: present.unassisted.need_mps2 }, session.pref)
              : t('ui.perf_out_of_scope')
          }}</span>
        </th>
        <td v-for="(s, k) in sides()" :key="k" class="fig" :class="{ bad: s.unassisted?.meets === false }">
          <Fig name="mps2" :value="s.unassisted?.deceleration_mps2" />
        </td>
      </tr>
    </tbody>
  </table>
  <p class="small">{{ t('caution.twin') }} {{ t('ui.perf_demand') }}</p>
</template>

<style scoped>
table {
  width: 100%;
}
th {
  text-align: left;
  font-weight: 400;
}
thead th {
  font-weight: 600;
}
td,
th {
  padding: 6px 12px 6px 0;
  border-bottom: 1px solid var(--rule-soft);
}
.bad {
  color: var(--bad);
  font-weight: 600;
}
</style>
