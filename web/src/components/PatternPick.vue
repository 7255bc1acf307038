<script setup lang="ts">
import Schematic from './Schematic.vue'
import { t } from '@/lib/words'
import type { Schemas } from '@/api/client'
import { useSession } from '@/stores/session'

/** The pattern of the brakes, by its picture: how the lines run, what sits between foot and cylinder. The shop's own stand first. */
defineProps<{ value: string | null | undefined; own?: string }>()
/** Picked: a pattern's id, or one of the shop's own whole. */
defineEmits<{ pick: [string, Schemas['JobOwnPattern']?] }>()
const session = useSession()
</script>

<template>
  <div class="patterns">
    <button
      v-for="p in session.vocabulary?.own_patterns ?? []"
      :key="p.id"
      type="button"
      class="tap"
      :aria-pressed="own === p.id"
      :data-testid="'own-' + p.name"
      @click="$emit('pick', p.pattern, p)"
    >
      <Schematic :system="p.system!" class="mini" aria-hidden="true" />
      <strong>{{ p.name }}</strong>
      <span class="small">{{ t('ui.own_pattern') }}</span>
    </button>
    <button
      v-for="p in session.vocabulary?.patterns ?? []"
      :key="p.id"
      type="button"
      class="tap"
      :aria-pressed="!own && value === p.id"
      :data-testid="'pattern-' + p.id"
      @click="$emit('pick', p.id)"
    >
      <Schematic :system="p.system!" class="mini" aria-hidden="true" />
      <span>{{ t('pattern.' + p.id) }}</span>
      <span class="small">{{ t('pattern_like.' + p.id) }}</span>
    </button>
  </div>
</template>

<style scoped>
.patterns {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 170px), 1fr));
  gap: 8px;
}
.tap {
  flex-direction: column;
  justify-content: flex-start;
  padding: 8px;
  font-size: 15px;
  line-height: 1.2;
}
.tap[aria-pressed='true'] {
  background: var(--sheet);
  color: var(--ink);
  border: 4px double var(--ink);
}
.mini :deep(text) {
  display: none;
}
.mini {
  width: 100%;
  max-width: 100px;
}
/* In the hand the names are what is looked for; the pictures make way. */
@media (max-width: 620px) {
  .patterns {
    grid-template-columns: 1fr 1fr;
  }
  .mini {
    display: none;
  }
}
</style>
