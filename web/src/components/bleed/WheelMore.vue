<script setup lang="ts">
import { NInput } from 'naive-ui'
import { ref } from 'vue'
import Choice from '@/components/Choice.vue'
import WrongPoured from './WrongPoured.vue'
import type { BleedView } from '@/lib/bleeding'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** What else can be said of a wheel: opened again, an opening lost, left undone with why. */
const props = defineProps<{ view: BleedView; at: string }>()
const store = useJob()
const leaving = ref(false)
const note = ref('')
function leave(why: string | null) {
  if (!why || (why === 'other' && !note.value.trim())) return
  store.send('wheel_left', { wheel: props.at, why: why as never, note: note.value.trim() || undefined })
  leaving.value = false
}
</script>

<template>
  <div class="row">
    <button type="button" class="tap bare" data-testid="wheel-again" @click="store.send('wheel_again', { wheel: at })">
      {{ t('ui.wheel_again') }}
    </button>
    <button
      v-if="view.entry?.mover === 'foot'"
      type="button"
      class="tap bare"
      data-testid="lost"
      @click="store.send('opening_lost', { wheel: at })"
    >
      {{ t('ui.lost_opening') }}
    </button>
    <button type="button" class="tap bare" :aria-pressed="leaving" data-testid="leave" @click="leaving = !leaving">
      {{ t('ui.leave_wheel') }}
    </button>
    <WrongPoured :wanted="view.need.class" :classes="[...view.need.allowed, ...view.need.forbidden]" />
  </div>
  <div v-if="leaving">
    <NInput v-model:value="note" placeholder="" :input-props="{ 'aria-label': t('ui.leave_why') }" />
    <Choice
      :label="t('ui.leave_why')"
      :value="null"
      :options="view.left_whys.map((v) => ({ id: v, label: t('left_why.' + v) }))"
      testid="left"
      @pick="leave"
    />
  </div>
</template>
