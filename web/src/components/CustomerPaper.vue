<script setup lang="ts">
import QrCode from '@/components/QrCode.vue'
import SheetBox from '@/components/SheetBox.vue'
import { computed, ref } from 'vue'
import { api, ask, Refused, type Schemas } from '@/api/client'
import { t } from '@/lib/words'

/** What the owner takes home: printed, sent as a file, or read on their own phone by a pass to this one paper. */
const props = defineProps<{ id: string }>()
const pass = ref<Schemas['ServerPass'] | null>(null)
const problem = ref('')
const href = computed(() => `/api/jobs/${props.id}/customer.pdf`)
const days = computed(() =>
  pass.value ? Math.round((Date.parse(pass.value.expires_at) - Date.now()) / 86_400_000) : 0,
)
const canShare = typeof navigator.share === 'function' && typeof navigator.canShare === 'function'
async function toPhone() {
  problem.value = ''
  try {
    pass.value = await ask(api.POST('/api/jobs/{id}/paper', { params: { path: { id: props.id } } }))
  } catch (e) {
    problem.value = e instanceof Refused ? e.problem.code : 'problem.server'
  }
}
async function share() {
  problem.value = ''
  try {
    const file = new File([await (await fetch(href.value)).blob()], 'brakes.pdf', { type: 'application/pdf' })
    await navigator.share({ files: [file], title: t('customer.title') })
  } catch (e) {
    // Closed without sending is nobody's fault.
    if (!(e instanceof DOMException && e.name === 'AbortError')) problem.value = 'problem.network'
  }
}
</script>

<template>
  <a class="tap" :href="href" data-testid="customer-paper">{{ t('ui.customer_paper') }}</a>
  <button type="button" class="tap" data-testid="customer-phone" @click="toPhone">{{ t('ui.customer_phone') }}</button>
  <button v-if="canShare" type="button" class="tap" @click="share">{{ t('ui.share_paper') }}</button>
  <p v-if="problem" class="problem" role="alert">{{ t(problem) }}</p>
  <SheetBox :show="!!pass" :title="t('ui.customer_phone')" :width="460" @update:show="pass = null">
    <template v-if="pass">
      <p>{{ t('ui.customer_phone_note', { days }) }}</p>
      <QrCode v-for="a in pass.addresses.slice(0, 1)" :key="a.url" :at="a" />
      <p v-if="!pass.addresses.length" class="caution">{{ t('ui.pass_only_here') }}</p>
      <p class="small">
        <a :href="pass.path" target="_blank" data-testid="paper-link">{{ t('ui.customer_paper') }}</a>
      </p>
    </template>
  </SheetBox>
</template>
