<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api, ask, Refused } from '@/api/client'
import CustomerPaper from '@/components/CustomerPaper.vue'
import PutAway from '@/components/PutAway.vue'
import Faults from '@/components/Faults.vue'
import AfterRelease from '@/components/verify/AfterRelease.vue'
import Fig from '@/components/Fig.vue'
import StateMark from '@/components/StateMark.vue'
import { useKept } from '@/lib/kept'
import { useStation } from '@/lib/station'
import { dayText, momentText } from '@/lib/when'
import ReallyWas from '@/components/ReallyWas.vue'
import { say, t, wheels } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

const store = useJob()
const session = useSession()
const { view, problem } = useStation('record')
const job = computed(() => store.job!)
const router = useRouter()
/** A new job on the same vehicle: what it is and has, nothing of what was done. */
async function another() {
  const body = { vehicle: '', plate: '', customer: '', complaint: '', pattern: '', from: job.value.id }
  try {
    const next = await ask(api.POST('/api/jobs', { body }))
    await router.push(`/jobs/${next.id}/intake`)
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    store.problem = e.problem
  }
}
const note = useKept('note', '')
function add() {
  store.send('note', { text: note.value })
  note.value = ''
}
const at = momentText
</script>

<template>
  <Faults v-if="problem" :problem="problem" />
  <template v-if="view">
    <section class="field" data-testid="sheet">
      <header>
        <h2>{{ t('sheet.title') }}</h2>
        <strong :class="job.state.released_at ? 'ok' : 'bad'" data-testid="released">{{
          job.state.released_at
            ? t('sheet.released', { at: at(job.state.released_at), by: job.state.released_by })
            : t('sheet.not_released')
        }}</strong>
      </header>
      <AfterRelease :told="job.state.afterwards ?? []" :called-back="job.state.called_back ?? []" />
      <ul v-if="job.state.reopenings.length" class="reopened" data-testid="reopenings">
        <li v-for="r in job.state.reopenings" :key="r.at">
          <strong>{{ t('sheet.reopened', { at: at(r.at), by: r.by }) }}.</strong> {{ r.reason }}
        </li>
      </ul>
      <table>
        <tbody>
          <tr>
            <th scope="row">{{ t('sheet.vehicle') }}</th>
            <td>{{ job.intake.vehicle }} {{ job.intake.plate }}</td>
          </tr>
          <tr>
            <th scope="row">{{ t('sheet.customer') }}</th>
            <td>{{ job.intake.customer }}</td>
          </tr>
          <tr>
            <th scope="row">{{ t('sheet.distance') }}</th>
            <td><Fig v-if="job.intake.distance_km" name="km" :value="job.intake.distance_km" /></td>
          </tr>
          <tr>
            <th scope="row">{{ t('sheet.complaint') }}</th>
            <td>{{ job.intake.complaint }}</td>
          </tr>
          <tr>
            <th scope="row">{{ t('sheet.found') }}</th>
            <td>
              <div
                v-for="f in view.diagnose.findings_count ? view.diagnose.result.faults.slice(0, 2) : []"
                :key="f.id + (f.at ?? '')"
              >
                {{ t('fault_id.' + f.id) }}{{ f.at ? ', ' + wheels(f.at) : '' }} ({{ Math.round(f.probability * 100) }}
                %)
              </div>
            </td>
          </tr>
          <tr>
            <th scope="row">{{ t('sheet.fitted') }}</th>
            <td>
              {{ t('scope.' + job.choices.scope) }}
              <div v-for="u in view.fitted" :key="u.id">
                {{ u.maker }} {{ u.number }}<template v-if="u.bore_mm">, <Fig name="mm" :value="u.bore_mm" /></template>
              </div>
            </td>
          </tr>
          <tr v-if="view.replace.rod">
            <th scope="row">{{ t('sheet.rod') }}</th>
            <td><Fig name="mm" :value="view.replace.rod.gap_mm" /></td>
          </tr>
          <tr v-for="(x, id) in view.replace.torque" :key="id">
            <th scope="row">{{ t('step.' + id) }}</th>
            <td><Fig name="nm" :value="x.torque_nm" /> {{ t('torque.' + x.verdict) }}</td>
          </tr>
          <tr>
            <th scope="row">{{ t('sheet.bled') }}</th>
            <td v-if="!view.bleed.applies">{{ t('sheet.not_bled') }}</td>
            <td v-else>
              <div v-for="(w, id) in view.bleed.wheels" :key="id" class="fig">
                {{ wheels(String(id)) }}: {{ t('ui.strokes_made', { count: w.strokes }) }},
                <Fig name="cm3" :value="w.cm3" />,
                {{ t('ui.of_which_old', { percent: Math.round(w.old * 100) }) }}
              </div>
            </td>
          </tr>
        </tbody>
      </table>
      <ul>
        <li v-for="i in view.verify.gate.items" :key="i.id" class="row">
          <StateMark :state="i.state" />
          <span
            ><strong>{{ t('finding.' + i.id) }}</strong> {{ say(i.code, i.with, session.pref) }}</span
          >
        </li>
      </ul>
    </section>
    <ReallyWas :view="view" />
    <section class="field" data-testid="due">
      <header>
        <h2>{{ t('sheet.due') }}</h2>
      </header>
      <p>
        {{ t('ui.due_date') }} <strong class="fig">{{ dayText(view.due.at_date) }}</strong>,
        <template v-if="view.due.at_km"
          >{{ t('ui.due_km') }} <strong><Fig name="km" :value="view.due.at_km" /></strong>,</template
        >
        {{
          t(view.due.water_own ? 'ui.due_water_own' : 'ui.due_water', {
            now: view.due.water_now_percent.toFixed(1),
            year: view.due.water_a_year_percent.toFixed(1),
          })
        }}
        <strong class="fig">{{ dayText(view.due.water_date) }}</strong>. {{ t('ui.due_first') }}
      </p>
    </section>
    <section class="field">
      <header>
        <h2>{{ t('sheet.notes') }}</h2>
      </header>
      <p v-for="(n, i) in job.state.notes" :key="i">{{ n }}</p>
      <form class="row" @submit.prevent="add">
        <NInput
          v-model:value="note"
          placeholder=""
          class="grow"
          :input-props="{ 'aria-label': t('sheet.notes') }"
          data-testid="note"
        />
        <button class="tap" :disabled="!note.trim()">{{ t('ui.add_note') }}</button>
      </form>
    </section>
    <div class="row more">
      <CustomerPaper :id="job.id" />
      <PutAway />
      <a
        v-if="job.state.released_at || job.choices.bottle.opened_at"
        class="tap"
        :href="`/api/jobs/${job.id}/labels.pdf`"
        data-testid="labels"
        >{{ t('ui.labels') }}</a
      >
      <a v-if="view.fitted.length" class="tap" :href="`/api/jobs/${job.id}/warranty.pdf`" data-testid="warranty">{{
        t('ui.warranty')
      }}</a>
      <button v-if="session.may('open_job')" type="button" class="tap" data-testid="another" @click="another">
        {{ t('ui.copy_job') }}
      </button>
      <a class="tap" :href="`/api/jobs/${job.id}/export`" data-testid="export">{{ t('ui.export') }}</a>
    </div>
    <div class="dock row">
      <strong :class="job.state.released_at ? 'ok' : 'bad'">{{
        t(job.state.released_at ? 'ui.released' : 'sheet.not_released')
      }}</strong>
      <RouterLink v-if="!job.state.released_at" class="tap" :to="{ name: 'verify' }">{{
        t('ui.go_verify')
      }}</RouterLink>
      <a class="tap main" :href="`/api/jobs/${job.id}/sheet.pdf`" data-testid="pdf">{{ t('ui.pdf') }}</a>
    </div>
  </template>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 12px 0 0;
}
li {
  flex-wrap: nowrap;
  align-items: flex-start;
  padding: 3px 0;
}
th {
  width: 190px;
}
.ok {
  color: var(--ok);
}
.bad {
  color: var(--bad);
}
.more {
  margin-top: 14px;
}
.grow {
  flex: 1 1 240px;
}
</style>
