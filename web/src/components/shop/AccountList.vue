<script setup lang="ts">
import { NInput } from 'naive-ui'
import { reactive, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import { useAsked } from '@/lib/asked'
import { t } from '@/lib/words'

/** The shop's accounts, for the lead: add, role, training, a link for a new password, close, sign out everywhere. */
type Account = Schemas['ServerAccountView']
const { value: list, problem, act } = useAsked(() => ask(api.GET('/api/accounts')))
const adding = reactive({ name: '', display: '', role: 'technician', trained: false, disabled: false })
const link = ref<{ name: string; path: string } | null>(null)
const at = (id: string) => ({ params: { path: { id } } })
async function add() {
  const u = await act(() => ask(api.POST('/api/accounts', { body: { ...adding, role: adding.role as never } })))
  if (!u) return
  Object.assign(adding, { name: '', display: '' })
  await newLink(u)
}
const set = (a: Account, change: Partial<Account>) => {
  const { name, display, role, trained, disabled } = { ...a, ...change }
  return act(() =>
    ask(api.PUT('/api/accounts/{id}', { ...at(a.id), body: { name, display, role, trained, disabled } })),
  )
}
async function newLink(a: Account) {
  const v = await act(() => ask(api.POST('/api/accounts/{id}/link', at(a.id))))
  if (v) link.value = { name: a.display, path: window.location.origin + v.path }
}
const out = (a: Account) => act(() => ask(api.POST('/api/accounts/{id}/sign-out', at(a.id))))
const roles = ['trainee', 'technician', 'lead']
</script>

<template>
  <section class="field" data-testid="accounts">
    <header>
      <h2>{{ t('ui.accounts') }}</h2>
    </header>
    <Faults v-if="problem" :problem="problem" />
    <p v-if="link" class="caution" role="status" data-testid="account-link">
      {{ t('ui.account_link_note', { name: link.name }) }} <strong class="fig">{{ link.path }}</strong>
    </p>
    <div v-for="a in list ?? []" :key="a.id" class="one" :data-testid="'account-' + a.name">
      <strong>{{ a.display }}</strong> <span class="small">{{ a.name }}</span>
      <Choice
        :value="a.role"
        :options="roles.map((id) => ({ id, label: t('role.' + id) }))"
        @pick="(v) => v && set(a, { role: v as never })"
      />
      <div class="row">
        <button type="button" class="tap" :aria-pressed="a.trained" @click="set(a, { trained: !a.trained })">
          {{ t('ui.account_trained') }}
        </button>
        <button type="button" class="tap" @click="newLink(a)">{{ t('ui.account_link') }}</button>
        <button type="button" class="tap" @click="out(a)">{{ t('ui.sign_out_everywhere') }}</button>
        <button type="button" class="tap" @click="set(a, { disabled: !a.disabled })">
          {{ t(a.disabled ? 'ui.account_open' : 'ui.account_close') }}
        </button>
        <span v-if="a.disabled">{{ t('ui.account_closed') }}</span>
      </div>
    </div>
    <form class="one" @submit.prevent="add">
      <h3>{{ t('ui.account_add') }}</h3>
      <div class="row">
        <NInput
          v-model:value="adding.name"
          :placeholder="t('ui.account_name')"
          :input-props="{ 'aria-label': t('ui.account_name') }"
          data-testid="account-name"
        />
        <NInput
          v-model:value="adding.display"
          :placeholder="t('ui.account_display')"
          :input-props="{ 'aria-label': t('ui.account_display') }"
          data-testid="account-display"
        />
      </div>
      <Choice
        :value="adding.role"
        :options="roles.map((id) => ({ id, label: t('role.' + id) }))"
        testid="account-role"
        @pick="(v) => v && (adding.role = v)"
      />
      <button class="tap main" :disabled="!adding.name || !adding.display" data-testid="account-add">
        {{ t('ui.add') }}
      </button>
    </form>
  </section>
</template>

<style scoped>
.one {
  border-top: 1px solid var(--rule-soft);
  padding: 10px 0;
  display: grid;
  gap: 6px;
}
.row :deep(.n-input) {
  flex: 1 1 200px;
}
.fig {
  overflow-wrap: anywhere;
}
</style>
