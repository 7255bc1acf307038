<script setup lang="ts">
import { NInput } from 'naive-ui'
import { ref } from 'vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** A pedal that changes more than it may by the units that go on: a lead says why it is wanted, and that stays on the record. */
const store = useJob()
const session = useSession()
const reason = ref('')
const take = () => void store.send('fit_accepted', { reason: reason.value.trim() })
</script>

<template>
  <form v-if="session.may('take_fit')" class="field row" data-testid="fit-reason" @submit.prevent="take">
    <NInput
      v-model:value="reason"
      class="why"
      :placeholder="t('ui.fit_reason')"
      :input-props="{ 'aria-label': t('ui.fit_reason') }"
    />
    <button class="tap" :disabled="!reason.trim()">{{ t('ui.fit_take') }}</button>
  </form>
</template>

<style scoped>
.why {
  flex: 1 1 280px;
}
</style>
