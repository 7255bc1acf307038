<script setup lang="ts">
import { useRoute, useRouter } from 'vue-router'
import { api, ask } from '@/api/client'
import PasswordForm from '@/components/shop/PasswordForm.vue'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The page of a one-time link: it sets a password and signs in. */
const pass = String(useRoute().params.pass)
const router = useRouter()
const session = useSession()
async function send(body: { password: string }) {
  await ask(api.POST('/api/welcome/{pass}', { params: { path: { pass } }, body }))
  await session.load()
  void router.replace('/')
}
</script>

<template>
  <main class="page">
    <h1>{{ t('ui.welcome') }}</h1>
    <section class="field"><PasswordForm :send="send" /></section>
  </main>
</template>

<style scoped>
.page {
  max-width: 720px;
  margin: 40px auto;
  padding: 0 16px;
}
</style>
