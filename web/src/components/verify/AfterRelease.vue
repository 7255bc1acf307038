<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { say, t } from '@/lib/words'
import { momentText } from '@/lib/when'
import { useSession } from '@/stores/session'

/** What was entered after the release of what lay before it, and what of it would have held the vehicle. */
defineProps<{ told: Schemas['JobAfterwards'][]; calledBack: string[] }>()
const session = useSession()
const line = (a: Schemas['JobAfterwards']) =>
  `${a.by}, ${momentText(a.at)}: ${t(a.step ? 'step.' + a.step : 'event.' + a.kind)}`
</script>

<template>
  <p v-if="calledBack.length" class="problem" role="alert" data-testid="called-back">
    {{ say('ui.called_back', { findings: calledBack }, session.pref) }}
  </p>
  <p v-if="told.length" class="caution" data-testid="told-afterwards">
    {{ t('ui.told_afterwards') }}: {{ told.map(line).join('; ') }}
  </p>
</template>
