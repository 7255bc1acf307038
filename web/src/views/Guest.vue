<script setup lang="ts">
import { NInput } from 'naive-ui'
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, Refused, type Problem } from '@/api/client'
import Faults from '@/components/Faults.vue'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The page of a guest's link: a name, and on to the exercise that is set. */
const pass = String(useRoute().params.pass)
const router = useRouter()
const session = useSession()
const display = ref('')
const problem = ref<Problem | null>(null)
const busy = ref(false)
async function come() {
  busy.value = true
  try {
    await ask(api.POST('/api/guests/{pass}', { params: { path: { pass } }, body: { display: display.value } }))
    await session.load()
    void router.replace('/practice')
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    problem.value = e.problem
  }
  busy.value = false
}
</script>

<template>
  <main class="page">
    <h1>{{ t('practice.bay') }}</h1>
    <form class="field" @submit.prevent="come">
      <p>{{ t('practice.guest_note') }}</p>
      <Faults v-if="problem" :problem="problem" />
      <label
        ><span class="small">{{ t('practice.guest_name') }}</span
        ><NInput v-model:value="display" placeholder="" :maxlength="60" data-testid="guest-name"
      /></label>
      <p>
        <button class="tap main" :disabled="busy || !display.trim()" data-testid="guest-come">
          {{ t('practice.begin') }}
        </button>
      </p>
    </form>
  </main>
</template>

<style scoped>
.page {
  max-width: 720px;
  margin: 40px auto;
  padding: 0 16px;
}
</style>
