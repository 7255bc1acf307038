<script setup lang="ts">
import { NInput } from 'naive-ui'
import { reactive, ref } from 'vue'
import { api, ask, Refused, type Problem } from '@/api/client'
import Faults from '@/components/Faults.vue'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** An empty shop: the lead's account is made here. */
const session = useSession()
const form = reactive({ name: '', display: '', password: '' })
const problem = ref<Problem | null>(null)
async function go() {
  try {
    // The shop's time and the lead's figures begin as this browser has them; both can be changed.
    const { timeZone: zone } = Intl.DateTimeFormat().resolvedOptions()
    const units = navigator.language === 'en-US' ? 'us' : 'metric'
    await ask(api.POST('/api/first', { body: { ...form, zone, units } }))
    await session.load()
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    problem.value = e.problem
  }
}
const fields = [
  ['name', 'ui.account_name', 'text'],
  ['display', 'ui.account_display', 'text'],
  ['password', 'ui.new_password', 'password'],
] as const
</script>

<template>
  <form class="field" data-testid="first-run" @submit.prevent="go">
    <header>
      <h2>{{ t('ui.first_run') }}</h2>
    </header>
    <p>{{ t('ui.first_run_note') }}</p>
    <Faults v-if="problem" :problem="problem" />
    <label v-for="[k, label, type] in fields" :key="k"
      ><span class="small">{{ t(label) }}</span
      ><NInput v-model:value="form[k]" :type="type" placeholder="" :data-testid="'first-' + k"
    /></label>
    <p class="small">{{ t('ui.password_rule') }}</p>
    <button class="tap main" data-testid="first-go">{{ t('ui.begin') }}</button>
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 10px;
}
</style>
