<script setup lang="ts">
import { NInput } from 'naive-ui'
import { ref } from 'vue'
import { Refused } from '@/api/client'
import { t } from '@/lib/words'
import { useOutbox } from '@/stores/outbox'
import { useSession } from '@/stores/session'

/** Signs the same person in again, where they are: what waits is theirs and is sent under no other name. */
const session = useSession()
const outbox = useOutbox()
const password = ref('')
const problem = ref('')
async function go() {
  problem.value = ''
  try {
    await session.signInAgain(password.value)
    outbox.signedOut = false
    password.value = ''
    await outbox.flush()
  } catch (e) {
    problem.value = e instanceof Refused ? e.problem.code : 'problem.server'
  }
}
</script>

<template>
  <form class="row" @submit.prevent="go">
    <NInput
      v-if="!session.isDemo"
      v-model:value="password"
      type="password"
      :placeholder="t('ui.password')"
      :input-props="{ 'aria-label': t('ui.password'), autocomplete: 'current-password' }"
      data-testid="password-again"
    />
    <button class="tap main" data-testid="sign-in-again">
      {{ t('ui.sign_in_as', { name: session.user?.display ?? '' }) }}
    </button>
    <span v-if="problem" class="bad" role="alert">{{ t(problem) }}</span>
  </form>
</template>
