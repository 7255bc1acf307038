<script setup lang="ts">
import { computed, ref } from 'vue'
import CallState from './CallState.vue'
import CallWords from './CallWords.vue'
import StopButton from './StopButton.vue'
import HelperPhone from './HelperPhone.vue'
import { useCalls, type Word } from '@/lib/calls'
import { useKeys } from '@/lib/keys'
import { t } from '@/lib/words'

/**
 * The calls at the bleeder. One big button that never moves, or the space bar, says the next word: two an opening, one where a
 * switch at the foot answers. Works with one screen read aloud. `more` says that the next opening may be called at once.
 */
const props = defineProps<{ wheel: string; method: string; blocked: boolean; more: boolean }>()
const emit = defineEmits<{ opening: [string]; lost: [string] }>()
const phone = ref(false)
const { view, say, next, spoken, note, shout } = useCalls(
  () => ({ wheel: props.wheel, method: props.method }),
  (outcome, id) => (outcome === 'opening' ? emit('opening', id) : emit('lost', id)),
)
const heard = (w: string) => ['holding', 'up', 'lifted'].includes(w)
const name = (w: string) => t((heard(w) ? 'call_heard.' : 'call_say.') + w)
/** Nothing is begun with an empty reservoir. */
const held = computed(() => props.blocked && (next.value === 'pump' || next.value === 'hold'))
const beside = computed(() => ['lifted', 'fill'].filter((w) => view.value?.may.includes(w as Word)))
const press = (e: Event) => {
  if (next.value && !held.value) say(next.value, e, next.value === 'closed' ? { next: props.more } : {})
}
useKeys({ ' ': press })
</script>

<template>
  <div v-if="view" class="pad">
    <CallWords :call="view.calling" who="bleeder" :pumps="view.pumps" />
    <button
      type="button"
      class="tap main big"
      data-stroke
      :disabled="!next || held"
      :data-testid="'say-' + (next ?? 'nothing')"
      @click="press"
    >
      {{ next ? name(next) : t('call_wait.' + view.calling.at) }}
    </button>
    <div class="row beside">
      <CallState class="hear" :shout="shout" :note="note" :other="view.other" />
      <button
        v-for="w in beside"
        :key="w"
        type="button"
        class="tap second"
        :data-testid="'say-' + w"
        @click="(e) => say(w as Word, e)"
      >
        {{ name(w) }}
      </button>
      <StopButton :may="view.may" @stop="say('stop')" />
    </div>
    <div class="row small">
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
  min-height: 132px;
  font-size: 32px;
  touch-action: manipulation;
}
.beside {
  min-height: 96px;
  flex-wrap: nowrap;
  justify-content: flex-end;
}
.second {
  min-height: 96px;
  flex: 0 1 200px;
  font-size: 20px;
}
.hear {
  flex: 1 1 200px;
}
</style>
