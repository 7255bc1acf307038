<script setup lang="ts">
import SheetBox from '@/components/SheetBox.vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** A change of unit, scope or school: what would have to be done again, before it counts. */
const store = useJob()
</script>

<template>
  <SheetBox :show="true" :title="t('ui.will_fall')" :width="560" @update:show="store.falls?.say(false)">
    <ul data-testid="will-fall">
      <li v-for="id in store.falls?.again ?? []" :key="id">{{ t('step.' + id) }}</li>
    </ul>
    <div class="row">
      <button type="button" class="tap main" data-testid="fall-keep" @click="store.falls?.say(false)">
        {{ t('ui.leave_as_is') }}
      </button>
      <button type="button" class="tap" data-testid="fall-go" @click="store.falls?.say(true)">
        {{ t('ui.change_anyway') }}
      </button>
    </div>
  </SheetBox>
</template>
