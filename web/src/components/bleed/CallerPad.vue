<script setup lang="ts">
import { ref } from 'vue'
import CallWords from './CallWords.vue'
import StopButton from './StopButton.vue'
import HelperPhone from './HelperPhone.vue'
import { useCalls } from '@/lib/calls'
import { useKeys } from '@/lib/keys'
import { t } from '@/lib/words'

/** The calls at the bleeder: one big tap or the space bar says the next word. Works with one screen read aloud. */
const props = defineProps<{ wheel: string; method: string; blocked: boolean }>()
const emit = defineEmits<{ opening: [string]; lost: [string] }>()
const phone = ref(false)
const { view, say, next, spoken } = useCalls(
  () => ({ wheel: props.wheel, method: props.method }),
  (outcome, id) => (outcome === 'opening' ? emit('opening', id) : emit('lost', id)),
)
const heard = (w: string) => ['holding', 'up', 'lifted'].includes(w)
useKeys({ ' ': () => !props.blocked && next.value && say(next.value) })
</script>

<template>
  <div v-if="view" class="pad">
    <CallWords :call="view.calling" who="bleeder" :pumps="view.pumps" />
    <div class="row">
      <button
        v-for="w in view.may.filter((x) => x !== 'stop')"
        :key="w"
        type="button"
        class="tap big"
        :class="{ main: w === next }"
        :disabled="blocked && (w === 'pump' || w === 'hold')"
        :data-testid="'say-' + w"
        @click="say(w)"
      >
        {{ t((heard(w) ? 'call_heard.' : 'call_say.') + w) }}
      </button>
      <StopButton :may="view.may" @stop="say('stop')" />
    </div>
    <div class="row small">
      <span data-testid="helper">{{ t(view.helper ? 'ui.helper_here' : 'ui.helper_none') }}</span>
      <button type="button" class="tap bare" data-testid="helper-phone" @click="phone = true">
        {{ t('ui.helper_phone') }}
      </button>
      <button type="button" class="tap bare" :aria-pressed="spoken" @click="spoken = !spoken">
        {{ t('ui.spoken') }}
      </button>
    </div>
    <HelperPhone v-if="phone" @close="phone = false" />
  </div>
</template>

<style scoped>
.pad {
  display: grid;
  gap: 10px;
}
.big {
  min-height: 84px;
  font-size: 24px;
  flex: 1 1 200px;
}
</style>
