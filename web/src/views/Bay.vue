<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, nextTick, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api, ask, Refused } from '@/api/client'
import AnotherDevice from '@/components/AnotherDevice.vue'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import NewJob from '@/components/NewJob.vue'
import RunningTimers from '@/components/RunningTimers.vue'
import Schematic from '@/components/Schematic.vue'
import TopBar from '@/components/TopBar.vue'
import { useBay } from '@/lib/bay'
import { newer, takeNewer } from '@/lib/pwa'
import { t, waitsFor } from '@/lib/words'
import { useSession } from '@/stores/session'

const router = useRouter()
const session = useSession()
const adding = ref(false)
const device = ref(false)
const file = ref<HTMLInputElement>()
const { jobs, counts, next, query, problem, onward } = useBay()
const standings = ['open', 'parked', 'released', 'history'] as const
const many = (standing: string) => counts.value.filter((c) => c.standing === standing).reduce((n, c) => n + c.n, 0)
const stations = computed(() => counts.value.filter((c) => c.standing === 'open').map((c) => ({ ...c })))
const none = computed(() =>
  next.value ? 'ui.none_so_far' : query.text || query.standing ? 'ui.none_found' : 'ui.bay_empty',
)
/** A shop that has no job at all. */
const empty = computed(() => jobs.value?.length === 0 && !next.value && !query.text && !query.standing)
const form = ref<InstanceType<typeof NewJob> | null>(null)
async function practise() {
  adding.value = true
  await nextTick()
  form.value?.practise()
}
async function bring(e: globalThis.Event) {
  const chosen = (e.target as HTMLInputElement).files?.[0]
  if (!chosen) return
  problem.value = null
  try {
    const body = JSON.parse(await chosen.text()) as never
    const job = await ask(api.POST('/api/jobs/import', { body }))
    await router.push(`/jobs/${job.id}/${job.status.at}`)
  } catch (err) {
    problem.value = err instanceof Refused ? err.problem : { code: 'ui.not_a_job_file' }
  }
  if (file.value) file.value.value = ''
}
</script>

<template>
  <TopBar />
  <main class="bay">
    <div class="row spread head">
      <div>
        <h1>{{ t('ui.bay') }}</h1>
        <p class="small">{{ t('ui.bay_note') }}</p>
      </div>
      <div class="row">
        <button class="tap bare" data-testid="another-device" @click="device = true">
          {{ t('ui.another_device') }}
        </button>
        <button v-if="session.may('bring_job_in')" class="tap" data-testid="bring-in" @click="file?.click()">
          {{ t('ui.import') }}
        </button>
        <input
          ref="file"
          type="file"
          accept=".json,application/json"
          class="gone"
          tabindex="-1"
          :aria-label="t('ui.import')"
          data-testid="import"
          @change="bring"
        />
        <button class="tap main" data-testid="new-job" @click="adding = !adding">{{ t('ui.new_job') }}</button>
      </div>
    </div>
    <p v-if="newer" class="caution row" role="status" data-testid="newer">
      {{ t('ui.newer_version') }}
      <button type="button" class="tap" @click="takeNewer">{{ t('ui.take_newer') }}</button>
    </p>
    <Faults v-if="problem" :problem="problem" />
    <AnotherDevice v-if="device" @close="device = false" />
    <NewJob v-if="adding" ref="form" @close="adding = false" />
    <div class="row find">
      <NInput
        v-model:value="query.text"
        clearable
        size="large"
        :placeholder="t('ui.find_job')"
        :input-props="{ 'aria-label': t('ui.find_job'), type: 'search' }"
        data-testid="find"
      />
      <Choice
        :value="query.standing"
        :label="t('ui.standing')"
        :options="standings.map((id) => ({ id, label: `${t('standing.' + id)} ${many(id)}` }))"
        clearable
        testid="standing"
        @pick="(v) => (query.standing = v ?? '')"
      />
      <Choice
        v-if="query.standing === 'open' && stations.length > 1"
        :value="query.station"
        :label="t('ui.waits_at')"
        :options="stations.map((c) => ({ id: c.station, label: `${t('station.' + c.station)} ${c.n}` }))"
        clearable
        testid="at-station"
        @pick="(v) => (query.station = v ?? '')"
      />
    </div>
    <section v-if="empty && !adding" class="field first" data-testid="first-minute">
      <p role="status">{{ t('ui.first_minute') }}</p>
      <p class="small">{{ t('ui.practice_note') }}</p>
      <div class="row">
        <button type="button" class="tap main" data-testid="practise-first" @click="practise">
          {{ t('ui.practice') }}
        </button>
        <button type="button" class="tap" @click="adding = true">{{ t('ui.new_job') }}</button>
      </div>
    </section>
    <p v-else-if="jobs?.length === 0" class="field" role="status" data-testid="bay-none">{{ t(none) }}</p>
    <ul class="jobs">
      <li v-for="j in jobs ?? []" :key="j.id">
        <RouterLink :to="`/jobs/${j.id}/${j.status.at || 'intake'}`" class="job field" data-testid="job">
          <Schematic v-if="j.system" :system="j.system" class="mini" aria-hidden="true" />
          <div class="what">
            <h2>{{ j.vehicle }}</h2>
            <span class="fig small">{{ j.plate }} · {{ j.customer }}</span>
            <p class="said">{{ j.complaint }}</p>
            <div class="stand">
              <span class="pair" aria-hidden="true"
                ><i v-for="s in j.status.stations" :key="s.id" :class="[s.state, { at: s.id === j.status.at }]"
              /></span>
              <span class="small">{{ t('station.' + (j.status.at || 'intake')) }}</span>
            </div>
            <strong v-if="j.parked" class="not-driven" data-testid="not-driven">{{ t('ui.parked') }}</strong>
            <RunningTimers v-if="j.timers?.length" :timers="j.timers" />
            <p>
              <span class="small lead">{{ t(j.status.released ? 'ui.state' : 'ui.waits') }}</span>
              <strong class="waits"> {{ waitsFor(j.status) }}</strong>
            </p>
          </div>
        </RouterLink>
      </li>
    </ul>
    <button v-if="next" class="tap more" data-testid="bay-more" @click="onward">
      {{ t(query.text ? 'ui.search_on' : 'ui.more') }}
    </button>
  </main>
</template>

<style scoped>
.bay {
  padding: 18px 20px 80px;
  max-width: 1280px;
  margin: 0 auto;
}
.not-driven {
  color: var(--bad);
  border: 4px double var(--bad);
  padding: 0 8px;
  justify-self: start;
}
.head {
  margin-bottom: 14px;
}
.find > :first-child {
  flex: 1;
  min-width: 260px;
  max-width: 520px;
}
.more {
  margin-top: 16px;
}
.jobs {
  list-style: none;
  padding: 0;
  margin: 14px 0 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 520px), 1fr));
  gap: 16px;
}
.job {
  display: grid;
  grid-template-columns: 190px 1fr;
  gap: 16px;
  text-decoration: none;
  color: var(--ink);
  height: 100%;
}
.job:hover {
  border-color: var(--ink);
}
.mini {
  align-self: center;
}
.said {
  margin: 6px 0 10px;
}
.stand {
  display: flex;
  gap: 12px;
  align-items: center;
}
.pair {
  display: flex;
  gap: 3px;
}
.pair i {
  width: 22px;
  height: 10px;
  border-top: 3px solid var(--rule);
  border-bottom: 3px dashed var(--rule);
}
.pair .done {
  border-color: var(--ink);
}
.pair .started {
  border-top-color: var(--ink);
}
.pair .at {
  background: var(--brass);
}
.lead {
  margin-right: 8px;
}
.waits {
  font-size: 18px;
}
@media (max-width: 560px) {
  .job {
    grid-template-columns: 1fr;
  }
  .mini {
    display: none;
  }
}
</style>
