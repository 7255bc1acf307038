<script setup lang="ts">
import { NInput } from 'naive-ui'
import { ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, ask } from '@/api/client'
import Faults from '@/components/Faults.vue'
import { useAsked } from '@/lib/asked'
import { momentText } from '@/lib/when'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** Tables to take out, read tokens for the shop's own scripts, and the description of the API. */
const session = useSession()
const lead = session.may('manage_accounts')
const { value: list, problem, act } = useAsked(() => (lead ? ask(api.GET('/api/tokens')) : Promise.resolve([])))
const name = ref('')
const secret = ref('')
async function add() {
  const v = await act(() => ask(api.POST('/api/tokens', { body: { name: name.value } })))
  if (v) secret.value = v.secret
  name.value = ''
}
const end = (id: string) => act(() => ask(api.DELETE('/api/tokens/{id}', { params: { path: { id } } })))
</script>

<template>
  <section class="field" data-testid="for-scripts">
    <header>
      <h2>{{ t('ui.api') }}</h2>
    </header>
    <p class="row">
      {{ t('ui.exports') }}:
      <template v-for="x in ['jobs', 'vehicles', 'units', 'fluids', 'statistics']" :key="x">
        <a class="tap" :href="`/api/out/${x}.csv`">{{ t('exports.' + x) }} CSV</a>
        <a class="tap" :href="`/api/out/${x}.json`">JSON</a>
      </template>
      <RouterLink class="tap" to="/api-page" data-testid="api-page">{{ t('ui.api_page') }}</RouterLink>
    </p>
    <template v-if="lead">
      <h3>{{ t('ui.tokens') }}</h3>
      <p class="small">{{ t('ui.token_note') }}</p>
      <Faults v-if="problem" :problem="problem" />
      <p v-if="secret" class="caution" role="status">
        <strong class="fig">{{ secret }}</strong>
      </p>
      <p v-for="k in list ?? []" :key="k.id" class="row">
        {{ k.name }}
        <span class="small">{{
          k.revoked_at ? t('ui.token_ended') : t('ui.token_used', { at: momentText(k.used_at) })
        }}</span>
        <button v-if="!k.revoked_at" type="button" class="tap" @click="end(k.id)">{{ t('ui.token_revoke') }}</button>
      </p>
      <form class="row" @submit.prevent="add">
        <NInput
          v-model:value="name"
          class="name"
          :placeholder="t('ui.token_name')"
          :input-props="{ 'aria-label': t('ui.token_name') }"
        />
        <button class="tap" :disabled="!name.trim()" data-testid="token-add">{{ t('ui.token_add') }}</button>
      </form>
    </template>
  </section>
</template>

<style scoped>
.name {
  flex: 1 1 200px;
}
.fig {
  overflow-wrap: anywhere;
}
</style>
