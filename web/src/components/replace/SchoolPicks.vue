<script setup lang="ts">
import type { Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import FoldAway from '@/components/FoldAway.vue'
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
  <FoldAway
    v-if="props.schools.length"
    :title="t('ui.how_it_is_done')"
    :line="schools.map((s) => t('school.' + s.id) + ' ' + t(`school_answer.${s.id}.${s.answer}`)).join(' · ')"
    data-testid="schools"
  >
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
  </FoldAway>
</template>

<style scoped>
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
