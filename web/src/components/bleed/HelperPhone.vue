<script setup lang="ts">
import QrCode from '@/components/QrCode.vue'
import SheetBox from '@/components/SheetBox.vue'
import { computed, onMounted, ref } from 'vue'
import { api, ask, Refused, type Schemas } from '@/api/client'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** A code for the helper's phone: a pass for the calls of this job and nothing else. */
const emit = defineEmits<{ close: [] }>()
const store = useJob()
const pass = ref<Schemas['ServerPass'] | null>(null)
const problem = ref('')
onMounted(async () => {
  try {
    pass.value = await ask(api.POST('/api/jobs/{id}/pass', { params: { path: { id: store.job!.id } } }))
  } catch (e) {
    problem.value = e instanceof Refused ? e.problem.code : 'problem.server'
  }
})
const here = computed(() => window.location.origin + (pass.value?.path ?? ''))
</script>

<template>
  <SheetBox :show="true" :title="t('ui.helper_phone')" :width="460" @update:show="emit('close')">
    <p v-if="problem" role="alert">{{ t(problem) }}</p>
    <template v-else-if="pass">
      <p>{{ t('ui.helper_phone_note') }}</p>
      <QrCode v-for="a in pass.addresses.slice(0, 1)" :key="a.url" :at="a" />
      <p v-if="!pass.addresses.length" class="caution">{{ t('ui.pass_only_here') }}</p>
      <p class="small fig">
        <a :href="pass.path" target="_blank" data-testid="pass-link">{{ here }}</a>
      </p>
    </template>
  </SheetBox>
</template>

<style scoped>
a {
  overflow-wrap: anywhere;
  color: inherit;
}
</style>
