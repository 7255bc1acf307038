<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import TakeLive from '@/components/instruments/TakeLive.vue'
import HoldTest from '@/components/diagnose/HoldTest.vue'
import LocatedPick from '@/components/diagnose/LocatedPick.vue'
import TraceTake from '@/components/instruments/TraceTake.vue'
import NumField from '@/components/NumField.vue'
import PlacedPick from '@/components/diagnose/PlacedPick.vue'
import PlacesLooked from '@/components/diagnose/PlacesLooked.vue'
import Readings from '@/components/diagnose/Readings.vue'
import Said from '@/components/terms/Said.vue'
import { freshOf, ofKind, remember } from '@/lib/figures'
import { useLatest } from '@/lib/latest'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** One finding, entered in the way its kind of value wants. */
const props = defineProps<{
  kind: Schemas['ServerFindingKind']
  value: unknown
  sure: boolean
  looked?: string[] // with the wet places: where was looked
}>()
/** The instrument that tells this figure by itself, and the codes a scan tool has read. */
const session = useSession()
const told = computed(() => session.vocabulary?.tells?.[props.kind.id]?.[0])
const draws = computed(
  () => props.kind.shape === 'choice' && !!session.vocabulary?.drawable?.some((d) => d.finding === props.kind.id),
)
const scanned = computed(() => (told.value === 'scan_tool' ? freshOf('scan_tool')?.text : undefined))
function takeCodes() {
  codes.value = scanned.value!
  remember(ofKind('scan_tool')!, codeList.value.length)
  emit('find', codeList.value)
}
const emit = defineEmits<{ find: [unknown]; sure: [boolean]; looked: [string[] | null] }>()
const number = ref<number | null>(typeof props.value === 'number' ? props.value : null)
const { now: latest, set: put } = useLatest(
  () => props.value,
  (v) => emit('find', v),
)
const list = computed(() => (Array.isArray(latest.value) ? (latest.value as string[]) : []))
const codes = ref(list.value.join(', '))
const codeList = computed(() =>
  codes.value
    .split(/[,;\n]/)
    .map((x) => x.trim())
    .filter(Boolean),
)
const placed = computed(() => (latest.value ?? {}) as Record<string, string>)
const given = computed(() => props.value !== undefined)
const unitless = computed(() => !/_(mm|kpa)$/.test(props.kind.id))
function toggle(v: string) {
  const none = props.kind.values[0]
  let next = list.value.includes(v) ? list.value.filter((x) => x !== v) : [...list.value, v]
  next = v === none ? (next.includes(none) ? [none] : []) : next.filter((x) => x !== none)
  put(next.length ? next : null)
}
</script>

<template>
  <div class="finding" :class="{ short: kind.shape === 'choice' }" :data-testid="'finding-' + kind.id">
    <div class="row spread">
      <strong><Said :text="t('finding.' + kind.id)" /></strong>
      <button
        v-if="given && kind.shape !== 'sink'"
        type="button"
        class="tap bare sure"
        :aria-pressed="!sure"
        @click="emit('sure', !sure)"
      >
        {{ t(sure ? 'ui.sure' : 'ui.unsure') }}
      </button>
    </div>
    <Choice
      v-if="kind.shape === 'choice'"
      clearable
      :name="t('finding.' + kind.id)"
      :value="value as string"
      :options="kind.values.map((v) => ({ id: v, label: t('value.' + v) }))"
      :testid="kind.id"
      @pick="(v) => emit('find', v)"
    />
    <LocatedPick v-else-if="kind.shape === 'located'" :id="kind.id" :values="kind.values" :value="latest" @find="put" />
    <PlacesLooked
      v-else-if="kind.shape === 'places'"
      :places="kind.values.slice(1)"
      :wet="list"
      :looked="looked"
      @find="(wet, at) => (put(wet), emit('looked', at))"
    />
    <div v-else-if="kind.shape === 'list'" class="row">
      <button
        v-for="v in kind.values"
        :key="v"
        type="button"
        class="tap"
        :aria-pressed="list.includes(v)"
        :data-testid="kind.id + '-' + v"
        @click="toggle(v)"
      >
        {{ t('value.' + v) }}
      </button>
    </div>
    <div v-else-if="kind.shape === 'number'" class="row">
      <NumField
        v-model="number"
        :name="kind.id"
        :unitless="unitless"
        :min="kind.min"
        :max="kind.max"
        :of="t('finding.' + kind.id)"
        :testid="kind.id"
      />
      <TakeLive v-if="told" :kind="told" @take="(v) => (number = v)" />
      <button
        type="button"
        class="tap main"
        :disabled="number == null"
        :aria-label="t('ui.save_of', { what: t('finding.' + kind.id) })"
        @click="emit('find', number)"
      >
        {{ t('ui.take_reading') }}
      </button>
      <button v-if="given" type="button" class="tap" @click="emit('find', null)">{{ t('ui.remove') }}</button>
    </div>
    <PlacedPick
      v-else-if="kind.shape === 'placed' || kind.shape === 'placed_wheels'"
      :id="kind.id"
      :values="kind.values"
      :wheels="kind.shape === 'placed_wheels'"
      :value="placed"
      @pick="put"
    />
    <div v-else-if="kind.shape === 'texts'" class="row">
      <button type="button" class="tap" :aria-pressed="given && list.length === 0" @click="emit('find', [])">
        {{ t('ui.no_codes') }}
      </button>
      <NInput
        v-model:value="codes"
        class="codes"
        :placeholder="t('ui.codes_as_read')"
        :input-props="{ 'aria-label': t('ui.codes') }"
        @keydown.enter="emit('find', codeList.length ? codeList : null)"
      />
      <button v-if="scanned" type="button" class="tap" data-testid="take-codes" @click="takeCodes">
        {{ t('instrument.take') }} <strong class="fig">{{ scanned }}</strong>
      </button>
      <button type="button" class="tap" :disabled="!codeList.length" @click="emit('find', codeList)">
        {{ t('ui.take_reading') }}
      </button>
    </div>
    <HoldTest
      v-else-if="kind.shape === 'sink'"
      phase="diagnose"
      :last="value as never"
      @read="(v) => emit('find', v)"
    />
    <Readings
      v-else-if="kind.shape === 'readings'"
      :pairs="(value as never) ?? []"
      @change="(v) => emit('find', v.length ? v : null)"
    />
    <TraceTake v-if="draws" phase="diagnose" :finding="kind.id" />
  </div>
</template>

<style scoped>
.finding {
  padding: 8px 0 12px;
  border-top: 1px solid var(--rule-soft);
}
/* Room for "sure" from the start: what is tapped must not move when it appears. */
.finding > .spread {
  min-height: 48px;
}
.finding > .row + * {
  margin-top: 4px;
}
@media (min-width: 700px) {
  .short {
    display: grid;
    grid-template-columns: 2fr 3fr;
    gap: 0 16px;
    align-items: center;
    padding: 6px 0;
  }
}
.codes {
  max-width: 320px;
}
.sure {
  font-size: 15px;
}
</style>
