<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import type { Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import NumField from '@/components/NumField.vue'
import { say, t, wheels } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** What was repaired, where, and what was set to what: it is read on the owner's paper and when the vehicle comes again. */
const props = defineProps<{ offers: Schemas['JobRepairOffer'][]; inside?: boolean }>()
const store = useJob()
const session = useSession()
const told = computed(() => store.job?.state.repairs ?? [])
const work = ref<Schemas['JobRepairWork'] | ''>('')
const at = ref('')
const from = ref<number | null>(null)
const to = ref<number | null>(null)
const note = ref('')
const offer = computed(() => props.offers.find((o) => o.work === work.value))
watch(offer, (o) => {
  if (!o || !o.at.includes(at.value)) at.value = o?.at.length === 1 ? o.at[0]! : ''
})
const ready = computed(() => !!offer.value && (!offer.value.at.length || !!at.value))
function line(r: Schemas['JobRepairDone']): string {
  const key = r.to_mm == null ? 'plain' : r.from_mm == null ? 'to' : 'set'
  const figures = { ...(r.from_mm != null && { from_mm: r.from_mm }), ...(r.to_mm != null && { to_mm: r.to_mm }) }
  const where = r.at ? `${r.at}: ` : ''
  const text = say('repair_line.' + key, { where, work: t('repair_work.' + r.work), ...figures }, session.pref)
  return r.note ? `${text}, ${r.note}` : text
}
function tell() {
  if (!ready.value) return
  const sets = offer.value!.sets
  store.send('repaired', {
    work: work.value as Schemas['JobRepairWork'],
    ...(at.value && { at: at.value }),
    ...(sets && from.value != null && { from_mm: from.value }),
    ...(sets && to.value != null && { to_mm: to.value }),
    ...(note.value.trim() && { note: note.value.trim() }),
  })
  work.value = ''
  from.value = to.value = null
  note.value = ''
}
</script>

<template>
  <section :class="{ field: !inside }" data-testid="repairs">
    <h2 v-if="!inside">{{ t('ui.repaired_title') }}</h2>
    <ul v-if="told.length" class="told">
      <li v-for="r in told" :key="r.event_id" class="row" data-testid="repair-told">
        <span>{{ line(r) }}</span>
        <button
          type="button"
          class="tap bare"
          :aria-label="t('ui.repaired_remove', { what: line(r) })"
          @click="store.undo(r.event_id)"
        >
          {{ t('ui.remove') }}
        </button>
      </li>
    </ul>
    <p v-else class="small">{{ t('ui.repaired_note') }}</p>
    <Choice
      :value="work"
      :label="t('ui.repaired_what')"
      :options="offers.map((o) => ({ id: o.work, label: t('repair_work.' + o.work) }))"
      testid="repair-work"
      clearable
      @pick="(v) => (work = v ?? '')"
    />
    <template v-if="offer">
      <Choice
        v-if="offer.at.length > 1"
        :value="at"
        :label="t('ui.repaired_where')"
        :options="offer.at.map((id) => ({ id, label: wheels(id) }))"
        testid="repair-at"
        @pick="(v) => (at = v ?? '')"
      />
      <div class="row">
        <template v-if="offer.sets">
          <NumField
            v-model="from"
            name="mm"
            bound="repair.set_mm"
            :label="t('ui.repaired_from')"
            testid="repair-from"
          />
          <NumField v-model="to" name="mm" bound="repair.set_mm" :label="t('ui.repaired_to')" testid="repair-to" />
        </template>
        <NInput
          v-model:value="note"
          class="note"
          :placeholder="t('customer.note')"
          :input-props="{ 'aria-label': t('customer.note') }"
        />
        <button type="button" class="tap main" :disabled="!ready" data-testid="repair-tell" @click="tell">
          {{ t('ui.add') }}
        </button>
      </div>
    </template>
  </section>
</template>

<style scoped>
.told {
  list-style: none;
  margin: 0;
  padding: 0;
}
.told li {
  justify-content: space-between;
}
.note {
  flex: 1 1 200px;
}
</style>
