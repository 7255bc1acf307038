<script setup lang="ts">
import type { BleedView } from '@/lib/bleeding'
import type { ByItself } from '@/lib/byitself'
import Fig from '@/components/Fig.vue'
import { say, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** At the bleeder: counting by the foot switch, and what the scale says beside the count. */
const emit = defineEmits<{ count: [boolean]; was: [string] }>()
const session = useSession()
/** What lay on the scale, as whoever was there says it. */
const was = ['tool', 'spilled', 'bottle']
defineProps<{ itself: ByItself; wheel: BleedView['wheels'][string] }>()
</script>

<template>
  <div v-if="itself.foot || itself.travel || itself.scale" class="row" data-testid="by-itself">
    <button
      v-if="itself.foot || itself.travel"
      type="button"
      class="tap"
      :aria-pressed="itself.on"
      data-testid="count-by-foot"
      @click="emit('count', !itself.on)"
    >
      {{ t(itself.foot ? 'instrument.count_by_foot' : 'instrument.count_by_travel') }}
    </button>
    <span v-if="wheel.counted_cm3" class="fig" data-testid="weighed">
      {{ t('instrument.weighed') }} <Fig name="cm3" :value="wheel.weighed_cm3 ?? 0" /> · {{ t('instrument.counted') }}
      <Fig name="cm3" :value="wheel.counted_cm3" />
    </span>
    <div v-if="wheel.doubtful_g" class="caution" role="alert" data-testid="doubtful">
      {{ say('instrument.doubtful', { weighed_g: wheel.doubtful_g }, session.pref) }}
      <button v-for="w in was" :key="w" type="button" class="tap bare" @click="emit('was', w)">
        {{ t('instrument.was.' + w) }}
      </button>
    </div>
    <p v-if="wheel.disagrees" class="caution" role="alert" data-testid="disagrees">{{ t('instrument.disagrees') }}</p>
  </div>
</template>
