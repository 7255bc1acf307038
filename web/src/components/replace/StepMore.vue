<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import type { EventData } from '@/stores/outbox'
import type { Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import { useJoint } from '@/lib/plan'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** What else can be said of a step: a note, that it is not on this vehicle with why, a step of one's own after it. */
const props = defineProps<{
  step: Schemas['PlanStep']
  mayBeAbsent: boolean
  /** What a step of one's own may touch. */
  touchable: Schemas['PlanTouches'][]
}>()
const emit = defineEmits<{ tick: [EventData] }>()
const { joint, set } = useJoint()
const store = useJob()
const notes = computed(() => (store.job?.state.step_notes ?? []).filter((n) => n.step === props.step.id))
const saying = ref<'' | 'not_here' | 'own' | 'note'>('')
const asks = { '': '', not_here: 'ui.not_here_why', own: 'ui.own_step_what', note: 'ui.note_here_what' }
const text = ref('')
const touches = ref<Schemas['PlanTouches']>('all')
function open(what: typeof saying.value) {
  saying.value = saying.value === what ? '' : what
  text.value = ''
}
function say() {
  const said = text.value.trim()
  if (!said) return
  if (saying.value === 'not_here') emit('tick', { not_here: said })
  else if (saying.value === 'note') void store.send('note', { text: said, step: props.step.id })
  else {
    const own = joint.value.own ?? []
    const n = 1 + Math.max(0, ...own.map((o) => Number(o.id.split('.')[1]) || 0))
    void set({ own: [...own, { id: `own.${n}`, after: props.step.id, text: said, touches: touches.value }] })
  }
  saying.value = ''
}
</script>

<template>
  <div class="more">
    <p v-for="n in notes" :key="n.event_id" class="small" data-testid="step-note">{{ n.text }} ({{ n.by }})</p>
    <div class="row">
      <button
        type="button"
        class="tap bare"
        :aria-expanded="saying === 'note'"
        data-testid="note"
        @click="open('note')"
      >
        {{ t('ui.note_here') }}
      </button>
      <button
        v-if="mayBeAbsent"
        type="button"
        class="tap bare"
        :aria-expanded="saying === 'not_here'"
        data-testid="not-here"
        @click="open('not_here')"
      >
        {{ t('ui.not_here') }}
      </button>
      <button type="button" class="tap bare" :aria-expanded="saying === 'own'" data-testid="own" @click="open('own')">
        {{ t('ui.own_step') }}
      </button>
    </div>
    <form v-if="saying" class="row" @submit.prevent="say">
      <NInput
        v-model:value="text"
        placeholder=""
        class="say"
        :input-props="{ 'aria-label': t(asks[saying]) }"
        data-testid="say"
      />
      <button class="tap main" :disabled="!text.trim()" data-testid="say-it">{{ t('ui.add') }}</button>
      <span class="small">{{ t(asks[saying]) }}</span>
      <Choice
        v-if="saying === 'own'"
        :value="touches"
        :label="t('ui.own_touches')"
        :options="touchable.map((x) => ({ id: x, label: t('touches.' + x) }))"
        testid="touches"
        @pick="(v) => (touches = v as typeof touches)"
      />
    </form>
  </div>
</template>

<style scoped>
.say {
  flex: 1 1 220px;
}
</style>
