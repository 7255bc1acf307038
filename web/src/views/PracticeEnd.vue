<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink, useRoute } from 'vue-router'
import type { Schemas } from '@/api/client'
import Faults from '@/components/Faults.vue'
import Fig from '@/components/Fig.vue'
import PracticeReplay from '@/components/practice/PracticeReplay.vue'
import TopBar from '@/components/TopBar.vue'
import { useAsked } from '@/lib/asked'
import { endOf } from '@/lib/practice'
import { actName, placeName } from '@/lib/practicewords'
import { has, t, wheels } from '@/lib/words'

/** What an exercise came to: right or not, ninety days on, what hurt, beside the engine's own way on the same vehicle. */
const id = String(useRoute().params.id)
const { value: r, problem } = useAsked(() => endOf(id))
type Line = Schemas['PracticeLine']
const of = (x: string) => (!x ? '' : has('fault_id.' + x) ? t('fault_id.' + x) : placeName(x))
const lineText = (l: Line) =>
  (l.kind === 'act' ? t('happened.' + l.what) : t('harm.' + l.what)) + (l.of ? `: ${of(l.of)}` : '')
const truth = computed(() =>
  (r.value?.truth ?? []).map((f) => t('fault_id.' + f.id) + (f.at ? ' ' + wheels(f.at) : '')).join('; '),
)
const dearText = (d: Schemas['PracticeDear']) => {
  const act = d.act >= 0 ? r.value!.way[d.act] : undefined
  const what =
    d.what === 'sound_unit' ? t('doing.unit.' + d.of) : d.what === 'test_without' ? t('test.' + d.of) : of(d.of ?? '')
  const key = has('dear.' + d.what)
    ? 'dear.' + d.what
    : has('harm.' + d.what)
      ? act
        ? 'dear.harm'
        : 'dear.left'
      : 'dear.happened'
  const harm = has('harm.' + d.what) ? t('harm.' + d.what) : t('happened.' + d.what)
  // What nobody can say the place of is said without one.
  if (!what && ['dear.harm', 'dear.left', 'dear.happened'].includes(key)) return `${harm}.`
  return t(key, { what, harm, act: act ? actName(act) : '–' })
}
/** What a line was lost on: steps told and not done, readings told and not taken, units that were sound. */
function lostOn(lost: string[] | undefined): string {
  if (!lost?.length) return ''
  const name = (id: string) =>
    has('step.' + id) ? t('step.' + id) : has('finding.' + id) ? t('finding.' + id) : t('doing.unit.' + id)
  return `; ${t('marks.lost_on', { list: lost.map(name).join('; ') })}`
}
const work = computed(
  () =>
    [
      ['practice.minutes', 'plain', r.value?.yours.minutes, r.value?.engine.minutes],
      ['practice.tests', 'plain', r.value?.yours.tests, r.value?.engine.tests],
      ['practice.fluid', 'cm3', r.value?.yours.fluid_cm3, r.value?.engine.fluid_cm3],
      ['practice.units', 'plain', r.value?.yours.units, r.value?.engine.units],
      ['practice.money', 'plain', Math.round(r.value?.yours.money ?? 0), Math.round(r.value?.engine.money ?? 0)],
    ] as const,
)
</script>

<template>
  <TopBar />
  <main class="page">
    <Faults v-if="problem" :problem="problem" />
    <p v-if="!r && !problem" role="status">{{ t('practice.working_out') }}</p>
    <template v-if="r">
      <h1 data-testid="end-verdict">
        {{ t(r.stopped ? 'practice.was_stopped' : r.right ? 'practice.right' : 'practice.not_right') }} ·
        {{ t('marks.of', { n: r.total }) }}
      </h1>
      <p class="lead">
        {{ t('exercise.' + r.exercise) }}. {{ truth ? t('practice.truth', { list: truth }) : t('practice.sound') }}
        <template v-if="r.slips.length">
          {{ t('practice.slips', { list: r.slips.map(placeName).join(', ') }) }}
        </template>
      </p>
      <p v-if="has('teach.' + r.teaches)" class="lead" data-testid="teaches">
        <strong>{{ t('practice.teaches') }}.</strong> {{ t('teach.' + r.teaches) }}
      </p>
      <div class="two">
        <section class="field" data-testid="ninety">
          <header>
            <h2>{{ t('practice.ninety') }}</h2>
          </header>
          <p v-if="!r.ninety.length">{{ t('practice.nothing_back') }}</p>
          <p v-for="(l, i) in r.ninety" :key="i">
            <strong>{{ t('harm_kind.' + l.kind) }}</strong> {{ lineText(l) }}
          </p>
          <p v-for="(l, i) in r.unsafe" :key="'u' + i" class="bad">{{ lineText(l) }}</p>
          <p v-for="u in r.sound" :key="u" class="bad">
            {{ t('practice.sound_unit', { what: t('doing.unit.' + u) }) }}
          </p>
        </section>
        <section class="field" data-testid="marks">
          <header>
            <h2>{{ t('practice.marks') }}</h2>
          </header>
          <p v-for="m in r.marks" :key="m.id" class="row mark">
            <strong class="fig">{{ m.got }} / {{ m.of }}</strong>
            <span>{{ t('marks.' + m.id) }}{{ lostOn(m.lost) }}</span>
          </p>
          <p v-if="r.capped" class="problem" data-testid="capped">{{ t('cap.' + r.capped) }}</p>
        </section>
        <section class="field">
          <header>
            <h2>{{ t('practice.beside') }}</h2>
          </header>
          <table>
            <thead>
              <tr>
                <th />
                <th scope="col">{{ t('practice.yours') }}</th>
                <th scope="col">{{ t('practice.engine') }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="[key, unit, mine, own] in work" :key="key">
                <th scope="row">{{ t(key) }}</th>
                <td><Fig :name="unit" :value="mine" /></td>
                <td><Fig :name="unit" :value="own" /></td>
              </tr>
            </tbody>
          </table>
        </section>
        <section v-if="r.dear.length" class="field" data-testid="dear">
          <header>
            <h2>{{ t('practice.dear') }}</h2>
          </header>
          <p v-for="(d, i) in r.dear" :key="i">{{ dearText(d) }}</p>
        </section>
      </div>
      <PracticeReplay :result="r" />
      <div class="row">
        <RouterLink class="tap main" to="/practice">{{ t('practice.another') }}</RouterLink>
        <a v-if="r.certified" class="tap" :href="`/api/practice/${id}/certificate.pdf`">{{
          t('practice.certificate')
        }}</a>
        <RouterLink class="tap" :to="`/jobs/${id}/record`">{{ t('practice.the_job') }}</RouterLink>
      </div>
    </template>
  </main>
</template>

<style scoped>
.lead {
  max-width: 52em;
}
.bad {
  color: var(--bad);
}
.mark {
  flex-wrap: nowrap;
  align-items: baseline;
}
.mark .fig {
  flex: 0 0 76px;
}
th,
td {
  text-align: left;
  padding: 4px 18px 4px 0;
}
</style>
