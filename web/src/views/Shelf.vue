<script setup lang="ts">
import { NInput } from 'naive-ui'
import { useIntervalFn } from '@vueuse/core'
import { computed, onMounted, reactive, ref } from 'vue'
import { api, ask, Refused, type Problem, type Schemas, type Unit } from '@/api/client'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import Fig from '@/components/Fig.vue'
import ImportState from '@/components/ImportState.vue'
import NumField from '@/components/NumField.vue'
import TopBar from '@/components/TopBar.vue'
import { useUnitWords } from '@/lib/unitwords'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The catalogue: search by what was measured, bring units in, take them onto the shelf. */
const session = useSession()
const kinds = useUnitWords().words('kind')
const q = reactive({
  kind: 'master_cylinder',
  bore_mm: null as number | null,
  stud_spacing_mm: null as number | null,
  pocket_mm: null as number | null,
  shell_mm: null as number | null,
  firewall_spacing_mm: null as number | null,
  text: '',
})
const within = ref('0.1')
const found = ref<Unit[] | null>(null)
const all = ref(0)
const problem = ref<Problem | null>(null)
const shelved = reactive<Record<string, boolean>>({})
const cylinder = computed(() => q.kind === 'master_cylinder')
async function search() {
  problem.value = null
  const body = Object.fromEntries(
    Object.entries(q).filter(([k, v]) => v !== null && v !== '' && (cylinder.value || !/bore|stud|pocket/.test(k))),
  )
  try {
    const r = await ask(
      api.POST('/api/catalogue/search', { body: { ...body, within_mm: Number(within.value) } as never }),
    )
    found.value = r.units
    all.value = r.all
    for (const u of r.units) shelved[u.id] = r.shelved.includes(u.id)
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    problem.value = e.problem
  }
}
onMounted(search)
async function shelf(u: Unit) {
  const on = !shelved[u.id]
  await ask(api.POST('/api/catalogue/shelf', { body: { id: u.id, on } }))
  shelved[u.id] = on
}
const file = ref<HTMLInputElement>()
const state = ref<Schemas['ServerImportView'] | null>(null)
const { pause, resume } = useIntervalFn(follow, 400, { immediate: false })
async function bring(e: globalThis.Event) {
  const chosen = (e.target as HTMLInputElement).files?.[0]
  if (!chosen) return
  problem.value = null
  try {
    const body = { name: chosen.name, content: await chosen.text() }
    state.value = await ask(api.POST('/api/catalogue/import', { body }))
    resume()
  } catch (err) {
    if (!(err instanceof Refused)) throw err
    problem.value = err.problem
  }
  if (file.value) file.value.value = ''
}
async function follow() {
  const id = state.value?.id
  if (!id) return
  try {
    state.value = await ask(api.GET('/api/catalogue/imports/{id}', { params: { path: { id } } }))
  } catch {
    return // not reached just now: the next look tells
  }
  if (state.value.state !== 'running') {
    pause()
    await search()
  }
}
const { figure } = useUnitWords()
</script>

<template>
  <TopBar />
  <main class="shelf">
    <div class="row spread head">
      <div>
        <h1>{{ t('ui.catalogue') }}</h1>
        <p class="small">{{ t('ui.catalogue_note', { all }) }}</p>
      </div>
      <div class="row">
        <button v-if="session.may('import_catalogue')" type="button" class="tap" @click="file?.click()">
          {{ t('ui.catalogue_import') }}
        </button>
        <input
          v-if="session.may('import_catalogue')"
          ref="file"
          type="file"
          accept=".csv,.json,text/csv,application/json"
          class="gone"
          tabindex="-1"
          :aria-label="t('ui.catalogue_import')"
          data-testid="catalogue-file"
          @change="bring"
        />
        <a class="tap" href="/api/catalogue/units.csv" download>{{ t('ui.catalogue_export') }}</a>
      </div>
    </div>
    <Faults v-if="problem" :problem="problem" />
    <ImportState v-if="state" :state="state" />
    <form class="field" @submit.prevent="search">
      <Choice
        :value="q.kind"
        :options="kinds.map((k) => ({ id: k, label: t('spec.' + k) }))"
        testid="kind"
        @pick="(v) => v && (q.kind = v)"
      />
      <div class="cols gap">
        <template v-if="cylinder">
          <NumField
            v-model="q.bore_mm"
            name="mm"
            :label="t('ui.bore_stamp')"
            v-bind="figure('bore_mm')"
            testid="q-bore"
          />
          <NumField
            v-model="q.stud_spacing_mm"
            name="mm"
            :label="t('ui.stud_spacing')"
            v-bind="figure('stud_spacing_mm')"
            testid="q-stud"
          />
          <NumField
            v-model="q.pocket_mm"
            name="mm"
            :label="t('point.pocket')"
            v-bind="figure('pocket_mm')"
            testid="q-pocket"
          />
        </template>
        <template v-else>
          <NumField
            v-model="q.firewall_spacing_mm"
            name="mm"
            :label="t('ui.firewall_spacing')"
            v-bind="figure('booster.firewall_spacing_mm')"
            testid="q-firewall"
          />
          <NumField
            v-model="q.shell_mm"
            name="mm"
            :label="t('ui.shell')"
            v-bind="figure('booster.shell_mm')"
            testid="q-shell"
          />
        </template>
        <label
          ><span class="small">{{ t('ui.search_text') }}</span
          ><NInput v-model:value="q.text" placeholder="" data-testid="q-text"
        /></label>
      </div>
      <div class="row gap">
        <Choice
          :value="within"
          :label="t('ui.within')"
          :options="['0.1', '0.5', '2'].map((v) => ({ id: v, label: v + ' mm' }))"
          testid="within"
          @pick="(v) => v && (within = v)"
        />
        <button type="submit" class="tap main" data-testid="search">{{ t('ui.search') }}</button>
      </div>
    </form>
    <section v-if="found" class="field" data-testid="found">
      <h2>{{ found.length ? t('ui.found', { n: found.length }) : t('ui.found_none') }}</h2>
      <article v-for="u in found" :key="u.id" class="row spread unit">
        <div>
          <strong>{{ u.maker }} {{ u.number }}</strong>
          <span class="small fig">
            {{ t('spec.' + (u.condition || 'new'))
            }}<template v-if="u.bore_mm">
              · {{ t('point.bore') }} <Fig name="mm" :value="u.bore_mm" /> · {{ u.studs }} ×
              <Fig name="mm" :value="u.stud_spacing_mm" /> · {{ t('point.pocket') }}
              <Fig name="mm" :value="u.pocket_mm"
            /></template>
            <template v-if="u.booster?.shell_mm">
              · {{ t('point.shell') }} <Fig name="mm" :value="u.booster.shell_mm" /> · {{ t('point.firewall') }}
              <Fig name="mm" :value="u.booster.firewall_spacing_mm"
            /></template>
            <template v-if="u.variant"> · {{ t('spec.' + u.variant) }}</template>
          </span>
        </div>
        <button
          v-if="session.may('set_shelf')"
          type="button"
          class="tap"
          :aria-pressed="!!shelved[u.id]"
          :data-testid="'shelf-' + u.id"
          @click="shelf(u)"
        >
          {{ t(shelved[u.id] ? 'ui.on_shelf_now' : 'ui.to_shelf') }}
        </button>
      </article>
    </section>
  </main>
</template>

<style scoped>
.shelf {
  max-width: 1180px;
  margin: 0 auto;
  padding: 18px 16px 60px;
}
.head {
  margin-bottom: 14px;
}
.gone {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
.gap {
  margin-top: 12px;
}
.unit {
  border-top: 1px solid var(--rule-soft);
  padding: 8px 0;
}
</style>
