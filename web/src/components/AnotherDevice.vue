<script setup lang="ts">
import QrCode from '@/components/QrCode.vue'
import SheetBox from '@/components/SheetBox.vue'
import { onMounted, ref } from 'vue'
import { api, ask, Refused, type Schemas } from '@/api/client'
import { t } from '@/lib/words'

/** Where the next tablet or phone opens this shop: the address, and a code for its camera. */
const emit = defineEmits<{ close: [] }>()
const at = ref<Schemas['ServerAddresses'] | null>(null)
const problem = ref('')
onMounted(async () => {
  try {
    at.value = await ask(api.GET('/api/addresses'))
  } catch (e) {
    problem.value = e instanceof Refused ? e.problem.code : 'problem.server'
  }
})
</script>

<template>
  <SheetBox :show="true" :title="t('ui.another_device')" :width="460" @update:show="emit('close')">
    <p v-if="problem" role="alert">{{ t(problem) }}</p>
    <template v-else-if="at">
      <p v-if="!at.addresses.length" data-testid="only-here">{{ t('ui.only_here') }}</p>
      <template v-else>
        <p>{{ t('ui.another_device_note') }}</p>
        <QrCode v-for="a in at.addresses.slice(0, 2)" :key="a.url" :at="a" :size="220" />
      </template>
      <p v-if="at.fingerprint" class="small fig">{{ t('ui.fingerprint') }}: {{ at.fingerprint }}</p>
    </template>
  </SheetBox>
</template>
