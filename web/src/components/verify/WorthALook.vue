<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import FindingInput from '@/components/diagnose/FindingInput.vue'
import { findingsOf } from '@/lib/findings'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/**
 * What is worth a look before the keys are given back: for what may still be on the vehicle, as far as the diagnosis and
 * Verify know. What was looked at stays where it is.
 */
const props = defineProps<{ looks: Schemas['JobLooks'] }>()
const store = useJob()
const session = useSession()
const known = computed(() => findingsOf(store.job!, 'verify'))
const tests = computed(() =>
  (session.vocabulary?.tests ?? []).flatMap((x) => {
    const look = props.looks.worth.find((l) => l.test === x.id)
    const asks = look?.asks ?? [...new Set(x.yields.map((y) => y.split(':')[0]!))]
    const read = asks.filter((a) => props.looks.read.includes(a))
    return look || (read.length && !seen(x.id)) ? [{ id: x.id, look, asks: look ? asks : read }] : []
  }),
)
/** A finding that several tests tell is shown with the first of them. */
function seen(test: string) {
  const all = session.vocabulary?.tests ?? []
  const of = (id: string) => all.find((x) => x.id === id)?.yields.map((y) => y.split(':')[0]!) ?? []
  const before = all.slice(
    0,
    all.findIndex((x) => x.id === test),
  )
  return of(test).every(
    (y) => !props.looks.read.includes(y) || before.some((b) => b.yields.some((z) => z.split(':')[0] === y)),
  )
}
const kinds = (asks: string[]) => (session.vocabulary?.findings ?? []).filter((k) => asks.includes(k.id))
const names = (look: Schemas['DiagnoseLook']) =>
  look.for
    .map((f) =>
      t('ui.may_be_left', {
        fault: t('fault_id.' + f.id),
        at: f.at ?? '',
        percent: f.probability < 0.01 ? '<1' : Math.round(100 * f.probability),
      }),
    )
    .join('; ')
function find(finding: string, value: unknown, sure = true) {
  const told = value === null ? {} : { value: value as never, ...(sure ? {} : { sure }) }
  store.send('finding', { phase: 'verify', finding, ...told })
}
const looked = computed(() => known.value['looked.at']?.value as string[] | undefined)
</script>

<template>
  <section v-if="tests.length" class="field" data-testid="looks">
    <header>
      <h2>{{ t('ui.looks') }}</h2>
      <span class="small">{{ t('ui.looks_note') }}</span>
    </header>
    <details v-for="x in tests" :key="x.id" class="look" :data-testid="'look-' + x.id">
      <summary>
        <strong>{{ t('test.' + x.id) }}</strong>
        <span class="small">{{
          x.look ? t('ui.look_for', { minutes: x.look.minutes, list: names(x.look) }) : t('ui.looked_at')
        }}</span>
      </summary>
      <FindingInput
        v-for="k in kinds(x.asks)"
        :key="k.id"
        :kind="k"
        :value="known[k.id]?.value"
        :sure="known[k.id]?.sure ?? true"
        :looked="k.id === 'wet.at' ? looked : undefined"
        @find="(v) => find(k.id, v)"
        @sure="(s) => find(k.id, known[k.id]?.value, s)"
        @looked="(at) => find('looked.at', at)"
      />
    </details>
  </section>
</template>

<style scoped>
.look + .look {
  border-top: 1px solid var(--rule);
  margin-top: 10px;
  padding-top: 10px;
}
/* As high with its reason as without: nothing moves when it is answered. */
summary {
  min-height: 60px;
  padding: 6px 0;
  cursor: pointer;
}
summary .small {
  display: block;
}
</style>
