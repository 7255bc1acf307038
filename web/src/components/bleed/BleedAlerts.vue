<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { BleedView } from '@/lib/bleeding'
import { say, t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** What has to be known before the next opening: dry, spilled, a way that comes to nothing, fill, draw down, the bottle. */
const props = defineProps<{ view: BleedView; at: string }>()
/** A fluid that should not have gone in: what is left to do until it is out again. */
const flush = computed(() => props.view.flush)
const store = useJob()
const session = useSession()
</script>

<template>
  <p v-if="view.ran_dry" class="problem" role="alert" data-testid="ran-dry">
    {{ t('ui.ran_dry', { modulator: store.system?.modulator ? t('ui.ran_dry_modulator') : '' }) }}
  </p>
  <p v-if="flush" class="problem" role="alert" data-testid="flush">
    {{ say(flush.code, flush.with ?? {}, session.pref) }}
  </p>
  <p v-if="view.spilled" class="problem" role="alert">{{ t('ui.spilled') }}</p>
  <p v-if="view.stuck" class="problem" role="alert" data-testid="stuck">
    {{ say(view.stuck.code, view.stuck.with ?? {}, session.pref) }}
  </p>
  <p v-if="view.refill_now && at" class="problem" role="alert" data-testid="refill-now">
    {{ view.stood_days ? t('ui.stood', { count: view.stood_days }) : t('ui.fill_now') }}
  </p>
  <p v-else-if="view.draw_down_now" class="problem" role="alert" data-testid="draw-down-now">
    {{ say('ui.draw_down_now', { to_cm3: view.draw_down_to_cm3 }, session.pref) }}
  </p>
  <p
    v-if="at && view.bottle.open_days == null && view.bottle.boil_c == null"
    class="caution small"
    data-testid="bottle-unsaid"
  >
    {{ t('gate.fluid.unknown') }}
    <RouterLink :to="{ name: 'match' }">{{ t('station.match') }}</RouterLink>
  </p>
</template>
