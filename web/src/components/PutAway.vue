<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** A job nobody goes on with leaves the bay, with why; it is never deleted, and taken up again with one tap. */
const store = useJob()
const session = useSession()
const away = computed(() => store.job!.state.away)
const asking = ref(false)
const why = ref('')
function put() {
  store.send('put_away', { why: why.value.trim() as never })
  asking.value = false
}
</script>

<template>
  <template v-if="session.may('decide') && !store.released">
    <span v-if="away" class="row" data-testid="away">
      {{ t('ui.away_because', { why: away.why, by: away.by }) }}
      <button type="button" class="tap" data-testid="take-up" @click="store.send('taken_up')">
        {{ t('ui.take_up_again') }}
      </button>
    </span>
    <button v-else-if="!asking" type="button" class="tap" data-testid="put-away" @click="asking = true">
      {{ t('ui.put_away') }}
    </button>
    <form v-else class="row ask" @submit.prevent="put">
      <NInput
        v-model:value="why"
        :placeholder="t('ui.put_away_why')"
        :input-props="{ 'aria-label': t('ui.put_away_why') }"
        maxlength="400"
        autofocus
        data-testid="away-why"
      />
      <button class="tap main" :disabled="!why.trim()" data-testid="away-now">{{ t('ui.put_away') }}</button>
      <button type="button" class="tap bare" @click="asking = false">{{ t('ui.cancel') }}</button>
    </form>
  </template>
</template>

<style scoped>
.ask {
  flex: 1;
  min-width: min(100%, 420px);
}
.ask > :first-child {
  flex: 1;
  min-width: 220px;
}
</style>
