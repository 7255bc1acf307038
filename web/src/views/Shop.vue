<script setup lang="ts">
import { api, ask } from '@/api/client'
import AccountList from '@/components/shop/AccountList.vue'
import ForScripts from '@/components/shop/ForScripts.vue'
import InstrumentList from '@/components/shop/InstrumentList.vue'
import OwnPatterns from '@/components/shop/OwnPatterns.vue'
import PasswordForm from '@/components/shop/PasswordForm.vue'
import ShopForm from '@/components/shop/ShopForm.vue'
import TopBar from '@/components/TopBar.vue'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The shop: its settings and accounts for the lead, one's own password, and what goes out. */
const session = useSession()
const own = (body: { old?: string; password: string }) => ask(api.PUT('/api/me/password', { body }))
</script>

<template>
  <TopBar />
  <main class="page">
    <h1>{{ t('ui.the_shop') }}</h1>
    <ShopForm v-if="session.may('manage_settings')" />
    <AccountList v-if="session.may('manage_accounts')" />
    <InstrumentList v-if="session.may('manage_settings')" />
    <OwnPatterns v-if="session.may('manage_settings')" />
    <section class="field">
      <header>
        <h2>{{ t('ui.own_password') }}</h2>
      </header>
      <PasswordForm old :send="own" />
    </section>
    <ForScripts />
    <p class="row minor">
      <a class="tap bare" href="/api/licences" data-testid="licences">{{ t('ui.licences') }}</a>
    </p>
  </main>
</template>

<style scoped>
.page {
  max-width: 1040px;
}
</style>
