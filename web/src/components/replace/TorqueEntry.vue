<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, ask, Refused, type Schemas } from '@/api/client'
import { answer } from '@/core/answer'
import Choice from '@/components/Choice.vue'
import { parseFigure, convert } from '@/lib/units'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useLocalStorage } from '@vueuse/core'
import { NInput } from 'naive-ui'
import TakeLive from '@/components/instruments/TakeLive.vue'
import { freshOf, ofKind, remember, takenFor } from '@/lib/figures'
import { useJoint } from '@/lib/plan'
import type { EventData } from '@/stores/outbox'
import { useSession } from '@/stores/session'

/** A torque as the wrench was set, in the wrench's own unit, guarded against a figure off by twelve. */
const props = defineProps<{ torque: Schemas['PlanTorque']; id: string }>()
const emit = defineEmits<{ tick: [EventData] }>()
const store = useJob()
const session = useSession()
const { joint, set } = useJoint()
const text = ref('')
const units = ['N·m', 'ft·lbf', 'in·lbf']
// The wrench's unit is this person's, and stays what it was: nobody changes wrenches at every joint.
const mine = useLocalStorage(`geminate.torque_unit.${session.user?.id ?? ''}`, '')
/** A click is in newton metres whatever the wrench was set in; what is typed afterwards is in this person's own unit again. */
const clickUnit = ref('')
const unit = computed({
  get: () => clickUnit.value || mine.value || (session.pref === 'us' ? 'ft·lbf' : 'N·m'),
  set: (u: string) => {
    clickUnit.value = ''
    mine.value = u
  },
})
/** Units in which the same number would be in range too: asked once, of a person who never said. */
const also = ref<string[]>([])
const asks = computed(() => !mine.value && !clickUnit.value && verdict.value === 'ok' && also.value.length > 0)
const nm = computed(() => {
  const v = parseFigure(text.value)
  return v == null || v <= 0 ? null : convert(v, unit.value, 'N·m')
})
/** Each fastener's click, one after another; the joint is told when all of them have clicked. */
const clicks = ref<{ nm: number; at: string }[]>([])
/** A figure the wrench told, in newton metres whatever it was set in. */
function clicked(v: number) {
  clickUnit.value = 'N·m'
  text.value = String(Math.round(10 * v) / 10)
}
function typed(v: string) {
  clickUnit.value = ''
  text.value = v
}
const range = (u: string) => {
  const d = u === 'in·lbf' ? 0 : 1
  return `${convert(props.torque.low_nm, 'N·m', u).toFixed(d)}–${convert(props.torque.high_nm, 'N·m', u).toFixed(d)} ${u}`
}
// The core judges; until it has answered the joint cannot be ticked with this figure.
const verdict = ref<string | null>(null)
const judge = useDebounceFn(async () => {
  const torque_nm = nm.value
  if (torque_nm == null) return
  try {
    const params = { path: { id: store.job!.id } }
    const body = { step: props.id, torque_nm, torque_unit: unit.value }
    const r = await answer(store.job!.id, 'torque', body, () =>
      ask(api.POST('/api/jobs/{id}/torque', { params, body })),
    )
    if (nm.value !== torque_nm) return
    verdict.value = r.verdict
    also.value = r.also_in ?? []
  } catch (e) {
    if (!(e instanceof Refused)) throw e
  }
}, 120)
watch([nm, unit, () => props.torque], () => {
  verdict.value = null
  void judge()
})
/** A click while this joint is in hand ticks it, where the core finds the figure in its range; one that was left lying does not. */
const click = computed(() => freshOf('torque'))
const heard = ref(click.value?.at ?? 0)
const byItself = ref(0)
watch(click, (f) => {
  if (!f || f.at <= heard.value || f.v <= 0) return
  heard.value = f.at
  const v = Math.round(10 * f.v) / 10
  remember(ofKind('torque')!, v)
  verdict.value = null
  byItself.value = v
  clicked(v)
})
const tick = () => {
  const v = nm.value!
  const told = unit.value === 'N·m' ? takenFor('torque', v) : {}
  // With fewer clicks than fasteners it is a person's word for the rest, and no instrument's.
  const by = clicks.value.length >= props.torque.fasteners ? { ...told, clicks: clicks.value } : {}
  emit('tick', { torque_nm: v, torque_unit: unit.value, ...by } as EventData)
}
watch(
  () => verdict.value,
  (v) => {
    if (v !== 'ok' || !byItself.value || byItself.value !== nm.value) return
    clicks.value.push({ nm: byItself.value, at: new Date().toISOString() })
    byItself.value = 0
    if (clicks.value.length >= props.torque.fasteners) tick()
    else text.value = ''
  },
)
/** What was really done stands on the record, even where it was wrong; the step stays open. */
function was() {
  const figure = text.value.trim()
  const said = t('ui.torque_noted', { figure, unit: unit.value, verdict: t('torque.' + verdict.value) })
  store.send('note', { step: props.id, text: said })
  text.value = ''
}
// The maker's own range, entered once; it wins over common practice.
const asking = ref(false)
const low = ref('')
const high = ref('')
function maker() {
  const [lo, hi] = [parseFigure(low.value), parseFigure(high.value || low.value)]
  if (!lo || !hi) return
  const range = { low_nm: convert(lo, unit.value, 'N·m'), high_nm: convert(hi, unit.value, 'N·m') }
  void set({ torques: { ...joint.value.torques, [props.id]: range } })
  asking.value = false
}
</script>

<template>
  <div class="torque">
    <p class="fig range">
      {{ units.map(range).join('  ·  ') }}
      <span class="small">{{ t(torque.maker ? 'ui.maker_range' : 'ui.common_range') }}</span>
      <button
        v-if="session.may('decide')"
        type="button"
        class="tap bare"
        :aria-expanded="asking"
        data-testid="maker"
        @click="asking = !asking"
      >
        {{ t('ui.maker_range') }}
      </button>
    </p>
    <form v-if="asking" class="row" @submit.prevent="maker">
      <NInput
        v-model:value="low"
        inputmode="decimal"
        class="in"
        placeholder=""
        :input-props="{ 'aria-label': t('ui.maker_low') }"
        data-testid="maker-low"
      />
      –
      <NInput
        v-model:value="high"
        inputmode="decimal"
        class="in"
        placeholder=""
        :input-props="{ 'aria-label': t('ui.maker_high') }"
        data-testid="maker-high"
      />
      <span class="fig">{{ unit }}</span>
      <button class="tap" data-testid="maker-set">{{ t('ui.maker_set') }}</button>
    </form>
    <div class="row">
      <NInput
        :value="text"
        inputmode="decimal"
        class="in fig"
        placeholder=""
        :input-props="{ 'aria-label': t('ui.torque') }"
        :data-testid="'torque-' + id"
        @update:value="typed"
      />
      <strong class="fig now" aria-hidden="true">{{ unit }}</strong>
      <TakeLive v-if="torque.fasteners < 2" kind="torque" @take="clicked" />
      <span v-if="ofKind('torque') && torque.fasteners > 1" class="fig" role="status" data-testid="clicks">
        {{ t('instrument.clicks', { n: clicks.length, of: torque.fasteners }) }}
        <template v-for="(c, i) in clicks" :key="i"> · {{ c.nm }}</template>
      </span>
      <Choice
        :value="unit"
        :options="units.map((u) => ({ id: u, label: u }))"
        :testid="'torque-unit-' + id"
        @pick="(v) => v && (unit = v)"
      />
      <button
        type="button"
        class="tap main"
        :disabled="nm == null || verdict !== 'ok' || asks"
        :data-testid="'torque-tick-' + id"
        @click="tick"
      >
        {{ t('ui.torqued') }}
      </button>
    </div>
    <p v-if="verdict && verdict !== 'ok'" class="problem" role="alert" data-testid="torque-verdict">
      {{ t('torque.' + verdict) }}
      <button type="button" class="tap" data-testid="torque-was" @click="was">{{ t('ui.torque_was') }}</button>
    </p>
    <p v-if="asks" class="caution" role="alert" data-testid="torque-asks">
      {{ t('ui.torque_which', { figure: text, units: also.join(', ') }) }}
    </p>
    <button
      v-if="torque.by_hand"
      type="button"
      class="tap bare"
      :data-testid="'by-hand-' + id"
      @click="emit('tick', { by_hand: true })"
    >
      {{ t('ui.by_hand') }}
    </button>
  </div>
</template>

<style scoped>
.torque {
  display: grid;
  gap: 6px;
}
.range {
  margin: 0;
}
.in {
  width: 110px;
  font-size: 22px;
}
/* The unit stands beside the figure, as large as it. */
.now {
  font-size: 26px;
}
</style>
