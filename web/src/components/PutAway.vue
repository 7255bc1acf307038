<script setup lang="ts">
import { computed } from 'vue'
import AskWhy from './AskWhy.vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** A job nobody goes on with leaves the bay, with why; it is never deleted, and taken up again with one tap. */
const store = useJob()
const session = useSession()
const away = computed(() => store.job!.state.away)
</script>

<template>
  <template v-if="session.may('decide') && !store.released">
    <span v-if="away" class="row" data-testid="away">
      {{ t('ui.away_because', { why: away.why, by: away.by }) }}
      <button type="button" class="tap" data-testid="take-up" @click="store.send('taken_up')">
        {{ t('ui.take_up_again') }}
      </button>
    </span>
    <AskWhy
      v-else
      :label="t('ui.put_away')"
      :why="t('ui.put_away_why')"
      testid="put-away"
      @said="(why) => store.send('put_away', { why: why as never })"
    />
  </template>
</template>
