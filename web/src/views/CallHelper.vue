<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import CallState from '@/components/bleed/CallState.vue'
import CallWords from '@/components/bleed/CallWords.vue'
import StopButton from '@/components/bleed/StopButton.vue'
import { useSeat, type Word } from '@/lib/calls'
import { useAwake } from '@/lib/ring'
import { t } from '@/lib/words'

/** The helper's phone in the seat: what is called, big, spoken and felt; one tap answers; STOP is always there. */
const { view, say, auto, note, shout, spoken, problem, stopping } = useSeat(String(useRoute().params.pass))
useAwake(ref(true))
const may = (w: string) => !!view.value?.may.includes(w as Word)
/** The one answer that goes on; what goes wrong is beside it. */
const answer = computed(() => (['holding', 'up'] as const).find(may))
const switched = computed(() => !!view.value?.calling.auto)
const stopped = computed(() => stopping.value && view.value?.calling.at !== 'stop')
/** A switch at the foot is a key: held down is holding, let go is up, or lifted where it was open. */
const foot = (down: boolean) => (e: KeyboardEvent) => {
  if (e.key !== ' ' && e.key !== 'Enter') return
  e.preventDefault()
  if (e.repeat) return
  const word = down ? answer.value : switched.value ? (['up', 'lifted'] as const).find(may) : undefined
  if (word && !(down && switched.value && word === 'up')) say(word, e)
}
const down = foot(true)
const up = foot(false)
onMounted(() => {
  window.addEventListener('keydown', down)
  window.addEventListener('keyup', up)
})
onBeforeUnmount(() => {
  window.removeEventListener('keydown', down)
  window.removeEventListener('keyup', up)
})
</script>

<template>
  <main class="phone">
    <h1>
      {{ t('ui.in_the_seat') }}<template v-if="view?.vehicle"> · {{ view.vehicle }}</template>
    </h1>
    <p v-if="problem" class="problem" role="alert">{{ t(problem) }}</p>
    <template v-if="view">
      <CallWords :call="stopped ? { ...view.calling, at: 'stop' } : view.calling" who="seat" :pumps="view.pumps" />
      <button
        type="button"
        class="tap main big"
        data-stroke
        :disabled="!answer"
        :data-testid="'say-' + (answer ?? 'nothing')"
        @click="(e) => answer && say(answer, e)"
      >
        {{ answer ? t('call_say.' + answer) : t('call_wait.seat') }}
      </button>
      <CallState :shout="shout || stopped" :note="note" :other="view.other" />
      <button
        type="button"
        class="tap second"
        :disabled="!may('lifted')"
        data-testid="say-lifted"
        @click="(e) => say('lifted', e)"
      >
        {{ t('call_say.lifted') }}
      </button>
      <StopButton :may="view.may" @stop="say('stop')" />
      <div class="row">
        <button type="button" class="tap bare" :aria-pressed="spoken" @click="spoken = !spoken">
          {{ t('ui.spoken') }}
        </button>
        <button
          type="button"
          class="tap bare"
          :aria-pressed="switched"
          data-testid="foot-switch"
          @click="(e) => (auto(!switched), (e.currentTarget as HTMLElement).blur())"
        >
          {{ t('ui.foot_switch') }}
        </button>
      </div>
    </template>
  </main>
</template>

<style scoped>
.phone {
  max-width: 640px;
  margin: 0 auto;
  padding: 12px;
  display: grid;
  gap: 12px;
}
h1 {
  font-size: 20px;
  margin: 0;
}
.big {
  min-height: 140px;
  font-size: 34px;
  font-weight: 600;
  touch-action: manipulation;
}
.second {
  min-height: 72px;
  font-size: 20px;
}
</style>
