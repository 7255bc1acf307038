<script setup lang="ts">
import { ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import { useChoices } from '@/lib/choices'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** What is replaced: one line while it stands, all ways of it when it is to be changed. */
const props = defineProps<{ view: Schemas['JobMatchView'] }>()
const session = useSession()
const { choices, set } = useChoices()
const open = ref(false)
// What Diagnose settled is what Match opens on; going against it is one tap, and stays.
const proposal = () => ({
  scope: props.view.proposed,
  ...(props.view.routine ? { bleed: { ...choices.value.bleed, routine: true } } : {}),
})
watch(
  () => props.view.take && session.may('decide') && props.view.proposed,
  (scope) => scope && void set(proposal()),
  { immediate: true },
)
</script>

<template>
  <section class="field">
    <div class="row spread">
      <h2>
        {{ t('ui.scope') }}: <span data-testid="scope-now">{{ t('scope.' + choices.scope) }}</span>
      </h2>
      <button type="button" class="tap" :aria-expanded="open" data-testid="scope-change" @click="open = !open">
        {{ t(open ? 'ui.fold' : 'ui.change') }}
      </button>
    </div>
    <Choice
      v-if="open"
      :value="choices.scope"
      :options="view.scopes.map((s) => ({ id: s, label: t('scope.' + s) }))"
      testid="scope"
      @pick="
        (v) => {
          if (v) void set({ scope: v })
          open = false
        }
      "
    />
    <p v-if="view.proposed && view.proposed !== choices.scope" class="row gap" data-testid="proposed">
      {{ t(view.settled ? 'ui.proposed' : 'ui.proposed_unsettled', { scope: t('scope.' + view.proposed) }) }}
      <button
        type="button"
        class="tap"
        :class="{ main: view.settled }"
        data-testid="take-proposal"
        @click="set(proposal())"
      >
        {{ t('ui.take_proposal') }}
      </button>
      <RouterLink v-if="!view.settled" class="tap main" :to="{ name: 'diagnose' }">{{ t('ui.test_on') }}</RouterLink>
    </p>
    <p v-if="choices.scope === 'elsewhere'" class="gap">{{ t('plan.no_bleeding.elsewhere') }}</p>
    <p v-else-if="!view.opens_hydraulics" class="caution gap" data-testid="no-bleeding">
      {{ t('plan.no_bleeding.cylinder_aside') }} {{ t('caution.lines_must_flex') }}
    </p>
  </section>
</template>

<style scoped>
.gap {
  margin-top: 10px;
}
</style>
