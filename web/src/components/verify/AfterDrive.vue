<script setup lang="ts">
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** After the drive the joints and the level are looked at once more: told by one tap, with the complaint, where all of it is so. */
const props = defineProps<{ items: string[] }>()
const store = useJob()
const together = ['check.complaint_gone', 'check.dry_joints', 'check.level']
function tell() {
  for (const finding of together)
    if (finding === 'check.complaint_gone' || props.items.includes(finding))
      store.send('finding', { phase: 'verify', finding, value: 'yes' })
}
</script>

<template>
  <button type="button" class="tap main" data-testid="after-drive" @click="tell">
    {{ t(items.includes('check.level') ? 'ui.after_drive' : 'ui.after_drive_dry') }}
  </button>
</template>
