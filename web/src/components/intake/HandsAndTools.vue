<script setup lang="ts">
import { computed } from 'vue'
import Choice from '@/components/Choice.vue'
import { t } from '@/lib/words'
import type { Intake } from '@/stores/job'
import { useSession } from '@/stores/session'

/** Whose hands and which tools are there: what is proposed follows from it. */
const draft = defineModel<Intake>({ required: true })
const session = useSession()
const tools = computed(() => draft.value.tools ?? session.vocabulary?.tools ?? [])
function tool(id: string) {
  draft.value.tools = tools.value.includes(id) ? tools.value.filter((x) => x !== id) : [...tools.value, id]
}
</script>

<template>
  <section class="field">
    <header>
      <h2>{{ t('ui.shop') }}</h2>
    </header>
    <Choice
      :value="String(draft.hands || 1)"
      :label="t('ui.hands')"
      :options="[1, 2].map((n) => ({ id: String(n), label: t('ui.hands_' + n) }))"
      @pick="(v) => (draft.hands = Number(v))"
    />
    <fieldset class="plainset gap">
      <legend class="small">{{ t('ui.tools') }}</legend>
      <div class="row">
        <button
          v-for="x in session.vocabulary?.tools ?? []"
          :key="x"
          type="button"
          class="tap"
          :aria-pressed="tools.includes(x)"
          @click="tool(x)"
        >
          {{ t('tool.' + x) }}
        </button>
      </div>
    </fieldset>
    <button
      type="button"
      class="tap gap"
      :aria-pressed="draft.keep_lines_closed"
      @click="draft.keep_lines_closed = !draft.keep_lines_closed"
    >
      {{ t('ui.keep_closed') }}
    </button>
  </section>
</template>

<style scoped>
.gap {
  margin-top: 12px;
}
.plainset {
  border: 0;
  padding: 0;
}
</style>
