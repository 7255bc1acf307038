<script setup lang="ts">
import { NInput } from 'naive-ui'
import { ref } from 'vue'
import { Refused, type Problem } from '@/api/client'
import Faults from '@/components/Faults.vue'
import { t } from '@/lib/words'

/** A new password, typed once where it can be seen. Where somebody is signed in the one they have is asked for. */
const props = defineProps<{ old?: boolean; send: (body: { old?: string; password: string }) => Promise<unknown> }>()
const now = ref('')
const password = ref('')
const problem = ref<Problem | null>(null)
const done = ref(false)
async function go() {
  try {
    await props.send({ ...(props.old ? { old: now.value } : {}), password: password.value })
    problem.value = null
    done.value = true
    now.value = password.value = ''
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    problem.value = e.problem
  }
}
</script>

<template>
  <form @submit.prevent="go">
    <Faults v-if="problem" :problem="problem" />
    <p class="small">{{ t('ui.password_rule') }}</p>
    <div class="row">
      <NInput
        v-if="props.old"
        v-model:value="now"
        type="password"
        :placeholder="t('ui.old_password')"
        :input-props="{ 'aria-label': t('ui.old_password'), autocomplete: 'current-password' }"
      />
      <NInput
        v-model:value="password"
        type="password"
        show-password-on="click"
        :placeholder="t('ui.new_password')"
        :input-props="{ 'aria-label': t('ui.new_password'), autocomplete: 'new-password' }"
        data-testid="new-password"
      />
      <button class="tap main" :disabled="!password" data-testid="password-save">{{ t('ui.save') }}</button>
      <span v-if="done" role="status">{{ t('ui.saved') }}</span>
    </div>
  </form>
</template>

<style scoped>
.row :deep(.n-input) {
  flex: 1 1 200px;
}
</style>
