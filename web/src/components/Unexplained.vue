<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { t } from '@/lib/words'

/** What was measured and the work in hand does not put right: said at every station until it is. */
const props = defineProps<{ facts: Schemas['DiagnoseFact'][] }>()
const list = () =>
  props.facts
    .map((f) =>
      t('ui.fact' + (f.at ? '_at' : '') + (f.act ? '_act' : ''), {
        act: f.act ? t('action.' + f.act) : '',
        finding: t('finding.' + f.finding),
        at: f.at ?? '',
        value: t('value.' + f.value),
      }),
    )
    .join('; ')
</script>

<template>
  <p v-if="facts.length" class="caution" role="status" data-testid="unexplained">
    {{ t('ui.unexplained', { list: list() }) }}
  </p>
</template>
