<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useVibrate } from '@vueuse/core'
import { api, ask, Refused } from '@/api/client'
import CallWords from '@/components/bleed/CallWords.vue'
import StopButton from '@/components/bleed/StopButton.vue'
import { useCallStream, useSpeech, type CallView } from '@/lib/calls'
import { useKeys } from '@/lib/keys'
import { useAwake } from '@/lib/ring'
import { t } from '@/lib/words'

/** The helper's phone in the seat: what is called, big, spoken and felt; one tap answers; STOP is always there. */
const pass = String(useRoute().params.pass)
const view = ref<CallView | null>(null)
const problem = ref('')
const { spoken, speak } = useSpeech()
const { vibrate, isSupported } = useVibrate({ pattern: [200, 80, 200] })
useAwake(ref(true))
useCallStream(
  () => `/api/calls/${pass}/live`,
  (v) => (view.value = v),
)
async function say(word: string) {
  try {
    const body = { word: word as never, after: view.value?.calling.n ?? 0 }
    view.value = await ask(api.POST('/api/calls/{pass}', { params: { path: { pass } }, body }))
    problem.value = ''
  } catch (e) {
    problem.value = e instanceof Refused ? e.problem.code : 'problem.server'
  }
}
async function look() {
  try {
    view.value = await ask(api.GET('/api/calls/{pass}', { params: { path: { pass } } }))
  } catch (e) {
    problem.value = e instanceof Refused ? e.problem.code : 'problem.server'
  }
}
void look()
watch(
  () => view.value?.calling.n,
  (n, was) => {
    const v = view.value
    if (!v || was === undefined || n === was || v.calling.by !== 'bleeder') return
    speak(t('call.' + v.calling.at, { n: v.pumps }))
    if (isSupported.value) vibrate()
  },
)
const answers = computed(() => (view.value?.may ?? []).filter((w) => w !== 'stop'))
useKeys({ ' ': () => answers.value[0] && answers.value[0] !== 'lifted' && say(answers.value[0]) })
</script>

<template>
  <main class="phone">
    <h1>
      {{ t('ui.in_the_seat') }}<template v-if="view?.vehicle"> · {{ view.vehicle }}</template>
    </h1>
    <p v-if="problem" class="problem" role="alert">{{ t(problem) }}</p>
    <template v-if="view">
      <CallWords :call="view.calling" who="seat" :pumps="view.pumps" />
      <div class="answers">
        <button
          v-for="w in answers"
          :key="w"
          type="button"
          class="tap big"
          :class="{ main: w !== 'lifted' }"
          :data-testid="'say-' + w"
          @click="say(w)"
        >
          {{ t('call_say.' + w) }}
        </button>
      </div>
      <StopButton :may="view.may" @stop="say('stop')" />
      <button type="button" class="tap bare" :aria-pressed="spoken" @click="spoken = !spoken">
        {{ t('ui.spoken') }}
      </button>
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
.answers {
  display: grid;
  gap: 10px;
  min-height: 130px;
}
.big {
  min-height: 120px;
  font-size: 34px;
  font-weight: 600;
}
</style>
