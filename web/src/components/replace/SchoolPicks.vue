<script setup lang="ts">
import type { Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import { useJoint } from '@/lib/plan'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The ways practitioners differ in, each with what follows from it. */
const props = defineProps<{ schools: Schemas['JobSchoolAsked'][] }>()
const session = useSession()
const { joint, set } = useJoint()
const pick = (id: string, a: string | null) => a && void set({ schools: { ...joint.value.schools, [id]: a } })
</script>

<template>
  <details v-if="props.schools.length" class="field" data-testid="schools">
    <summary>
      <h2>{{ t('ui.how_it_is_done') }}</h2>
      <span class="small">{{
        schools.map((s) => t('school.' + s.id) + ' ' + t(`school_answer.${s.id}.${s.answer}`)).join(' · ')
      }}</span>
    </summary>
    <fieldset :disabled="!session.may('decide')" class="all">
      <div v-for="s in schools" :key="s.id">
        <Choice
          :label="t('school.' + s.id)"
          :value="s.answer"
          :options="s.answers.map((a) => ({ id: a, label: t(`school_answer.${s.id}.${a}`) }))"
          :testid="'school-' + s.id"
          @pick="(a) => pick(s.id, a)"
        />
        <p class="small">{{ t(`school_follows.${s.id}.${s.answer}`) }}</p>
      </div>
    </fieldset>
  </details>
</template>

<style scoped>
summary {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
  min-height: 48px;
  cursor: pointer;
}
.all {
  border: 0;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 12px;
}
p {
  margin: 4px 0 0;
}
</style>
