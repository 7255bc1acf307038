<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, nextTick, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, Refused } from '@/api/client'
import AnotherDevice from '@/components/AnotherDevice.vue'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import BayBands from '@/components/BayBands.vue'
import NewJob from '@/components/NewJob.vue'
import TopBar from '@/components/TopBar.vue'
import { useBay } from '@/lib/bay'
import NewerBar from '@/components/NewerBar.vue'
import { bringWaiting, isWaiting, NotTaken } from '@/lib/waitingfile'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

const router = useRouter()
const session = useSession()
const adding = ref(false)
const device = ref(false)
const file = ref<HTMLInputElement>()
const { jobs, counts, here, next, query, problem, onward } = useBay()
const over = ref(false)
/** How many entries a file of what waited brought here. */
const brought = ref<number | null>(null)
const standings = computed(() => session.vocabulary?.standings ?? [])
const many = (standing: string) => counts.value.filter((c) => c.standing === standing).reduce((n, c) => n + c.n, 0)
const stations = computed(() => counts.value.filter((c) => c.standing === 'open').map((c) => ({ ...c })))
const none = computed(() =>
  next.value ? 'ui.none_so_far' : query.text || query.standing ? 'ui.none_found' : 'ui.day_clear',
)
/** A shop that has no job at all. */
const empty = computed(() => jobs.value?.length === 0 && !counts.value.length && !query.text && !query.standing)
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
  brought.value = null
  try {
    const body = JSON.parse(await chosen.text()) as unknown
    if (isWaiting(body)) brought.value = await bringWaiting(body)
    else if (!session.may('bring_job_in')) problem.value = { code: 'problem.role' }
    else {
      const job = await ask(api.POST('/api/jobs/import', { body: body as never }))
      await router.push(`/jobs/${job.id}/${job.status.at}`)
    }
  } catch (err) {
    if (err instanceof NotTaken) problem.value = { code: err.message }
    else problem.value = err instanceof Refused ? err.problem : { code: 'ui.not_a_job_file' }
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
      <button class="tap main" data-testid="new-job" @click="adding = !adding">{{ t('ui.new_job') }}</button>
    </div>
    <NewerBar />
    <Faults v-if="problem" :problem="problem" />
    <p v-if="brought !== null" class="field" role="status">{{ t('ui.waiting_brought', { n: brought }) }}</p>
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
      <button
        type="button"
        class="tap"
        :aria-expanded="over || !!query.standing"
        data-testid="over"
        @click="((over = !over), over || (query.standing = ''))"
      >
        {{ t('ui.over_door') }}
      </button>
      <Choice
        v-if="over || query.standing"
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
    <BayBands :jobs="jobs ?? []" :here="here" :flat="!!(query.text || query.standing)" />
    <button v-if="next" class="tap more" data-testid="bay-more" @click="onward">
      {{ t(query.text ? 'ui.search_on' : 'ui.more') }}
    </button>
    <div class="row minor">
      <button class="tap bare" data-testid="another-device" @click="device = true">{{ t('ui.another_device') }}</button>
      <button
        class="tap bare"
        :data-testid="session.may('bring_job_in') ? 'bring-in' : 'bring-waiting'"
        @click="file?.click()"
      >
        {{ t(session.may('bring_job_in') ? 'ui.import' : 'ui.bring_waiting') }}
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
    </div>
    <AnotherDevice v-if="device" @close="device = false" />
  </main>
</template>

<style scoped>
.bay {
  padding: 18px 20px 80px;
  max-width: 1280px;
  margin: 0 auto;
}
.head {
  margin-bottom: 10px;
  flex-wrap: nowrap;
}
.minor {
  margin-top: 26px;
}
.find > :first-child {
  flex: 1;
  min-width: 260px;
  max-width: 520px;
}
.more {
  margin-top: 16px;
}
@media (max-width: 620px) {
  .bay {
    padding: 10px 10px 40px;
  }
  .head .small {
    display: none;
  }
}
</style>
