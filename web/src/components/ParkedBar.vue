<script setup lang="ts">
import { computed } from 'vue'
import { momentText } from '@/lib/when'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** A vehicle that is not to be driven says so above everything done on it. */
const store = useJob()
const session = useSession()
const parked = computed(() => store.job?.state.parked)
const when = momentText
</script>

<template>
  <div v-if="parked" class="parked" role="status" data-testid="parked">
    <div>
      <strong class="big">{{ t('ui.parked') }}</strong>
      <p>
        {{ parked.why.map((w) => t('park.' + w)).join(', ')
        }}<template v-if="parked.note">. {{ parked.note }}</template>
        <span class="small"> {{ t('ui.parked_by', { by: parked.by, at: when(parked.at) }) }}</span>
      </p>
    </div>
    <a class="tap" :href="`/api/jobs/${store.job?.id}/tag.pdf`" data-testid="tag">{{ t('ui.print_tag') }}</a>
    <button
      v-if="session.may('decide')"
      type="button"
      class="tap"
      data-testid="unpark"
      @click="store.send('unparked', {})"
    >
      {{ t('ui.unpark') }}
    </button>
  </div>
</template>

<style scoped>
.parked {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 16px;
  align-items: center;
  border: 4px double var(--bad);
  background: var(--bad-bg);
  padding: 10px 16px;
  margin-bottom: 12px;
}
.parked > :first-child {
  flex: 1 1 260px;
}
.big {
  font-size: 22px;
}
p {
  margin: 2px 0 0;
}
</style>
