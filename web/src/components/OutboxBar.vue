<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import SignInAgain from './SignInAgain.vue'
import { keepsNothing } from '@/lib/local'
import { saveWaiting } from '@/lib/waitingfile'
import { say, t } from '@/lib/words'
import { useOutbox } from '@/stores/outbox'
import { useSession } from '@/stores/session'
import { watch } from 'vue'

const outbox = useOutbox()
const session = useSession()
// Whoever comes in by the door is in.
watch(
  () => session.user?.id,
  (id) => id && (outbox.signedOut = false),
)
// What only this page holds is not closed away by mistake.
useEventListener(window, 'beforeunload', (e) => {
  if (outbox.waiting.some((w) => w.unkept)) e.preventDefault()
})
</script>

<template>
  <div class="bar" aria-live="polite" data-testid="outbox" :data-waiting="outbox.mine.length">
    <div v-if="outbox.signedOut" class="notice off" data-testid="signed-out">
      <strong v-if="outbox.mine.length">{{ t('ui.waiting', { count: outbox.mine.length }) }}</strong>
      {{ t('ui.sign_in_to_send') }}
      <SignInAgain />
    </div>
    <div v-else-if="outbox.offline && outbox.mine.length" class="notice off" data-testid="offline">
      <strong>{{ t('ui.waiting', { count: outbox.mine.length }) }}</strong>
      {{ t('problem.network') }}
      <button class="tap" @click="outbox.flush()">{{ t('ui.try_now') }}</button>
      <button class="tap" data-testid="save-waiting" @click="saveWaiting">{{ t('ui.save_waiting') }}</button>
    </div>
    <div v-if="keepsNothing" class="notice bad" role="alert" data-testid="keeps-nothing">
      <strong>{{ t('ui.keeps_nothing') }}</strong>
      <template v-if="outbox.mine.length">
        <span>{{ t('ui.waiting', { count: outbox.mine.length }) }}</span>
        <button class="tap" @click="saveWaiting">{{ t('ui.save_waiting') }}</button>
      </template>
    </div>
    <div v-if="outbox.refused" class="notice bad" data-testid="refused">
      {{ t(outbox.refused.code, { detail: outbox.refused.detail ?? '' }) }}
      <span v-for="m in outbox.refused.missing ?? []" :key="m">{{ t('step.' + m) }}.</span>
      <span v-for="(f, i) in outbox.refused.faults ?? []" :key="i">{{ say(f.code, f.with ?? {}, session.pref) }}.</span>
      <button class="tap" data-testid="refused-close" @click="outbox.refused = null">{{ t('ui.close') }}</button>
    </div>
  </div>
</template>

<style scoped>
/* In the flow, so that it never lies over what is to be tapped. */
.bar {
  position: sticky;
  top: 0;
  z-index: 50;
}
.notice {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
  padding: 10px 20px;
  border-bottom: 4px double;
}
.off {
  background: var(--warn-bg);
  color: var(--ink);
  border-color: var(--warn);
}
.bad {
  background: var(--bad-bg);
  color: var(--ink);
  border-color: var(--bad);
}
</style>
