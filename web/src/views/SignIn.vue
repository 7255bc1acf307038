<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import { Refused } from '@/api/client'
import { t } from '@/lib/words'
import FirstRun from '@/components/shop/FirstRun.vue'
import { useOutbox } from '@/stores/outbox'
import { useSession } from '@/stores/session'

const session = useSession()
const outbox = useOutbox()
/** Strokes and readings of whoever worked here last, not sent yet: they leave when that person signs in again. */
const waits = computed(() => outbox.waiting.filter((w) => !w.refused).length)
const name = ref('')
const password = ref('')
/** The shop's code is remembered on this device: it is asked for where there are several. */
const shop = useLocalStorage('geminate.shop', '')
const problem = ref('')
const busy = ref(false)
async function go(who: string, demo: boolean) {
  busy.value = true
  problem.value = ''
  try {
    await session.signIn(who, password.value, demo, session.shops ? shop.value.trim().toLowerCase() : '')
  } catch (e) {
    problem.value = e instanceof Refused ? e.problem.code : 'problem.server'
  }
  busy.value = false
}
</script>

<template>
  <main class="sign">
    <svg viewBox="0 0 720 90" class="rails" aria-hidden="true">
      <path d="M0 38H720" class="a" />
      <path d="M0 58H720" class="b" />
      <path v-for="i in 8" :key="i" :transform="`translate(${i * 88 - 58} 23)`" d="M12 0h26l13 25-13 25H12L0 25z" />
    </svg>
    <h1>Geminate</h1>
    <p class="lead">{{ t('ui.what') }}</p>
    <p v-if="waits" class="caution" role="status" data-testid="waits-here">
      {{ t('ui.waits_here', { count: waits }) }}
    </p>
    <p v-if="problem" class="problem" role="alert">{{ t(problem) }}</p>
    <section v-if="session.demo.length" class="field">
      <header>
        <h2>{{ t('ui.demo') }}</h2>
        <span class="small">{{ t('ui.demo_note') }}</span>
      </header>
      <div class="row">
        <button
          v-for="d in session.demo"
          :key="d.name"
          class="tap main who"
          :disabled="busy"
          :data-testid="'demo-' + d.name"
          @click="go(d.name, true)"
        >
          {{ d.display }} <span class="role">{{ t('role.' + d.role) }}</span>
        </button>
      </div>
    </section>
    <FirstRun v-if="session.first" />
    <form v-else class="field" @submit.prevent="go(name, false)">
      <header>
        <h2>{{ t('ui.sign_in') }}</h2>
      </header>
      <div class="row">
        <label v-if="session.shops"
          ><span class="small">{{ t('ui.shop_code') }}</span
          ><NInput
            v-model:value="shop"
            placeholder=""
            :input-props="{ autocomplete: 'organization' }"
            data-testid="shop-code"
        /></label>
        <label
          ><span class="small">{{ t('ui.name') }}</span
          ><NInput v-model:value="name" placeholder="" :input-props="{ autocomplete: 'username' }" data-testid="name"
        /></label>
        <label
          ><span class="small">{{ t('ui.password') }}</span
          ><NInput
            v-model:value="password"
            type="password"
            placeholder=""
            :input-props="{ autocomplete: 'current-password' }"
            data-testid="password"
        /></label>
        <button class="tap go" :disabled="busy || !name" data-testid="sign-in">{{ t('ui.sign_in') }}</button>
      </div>
    </form>
    <p class="caution">{{ t('caution.safety') }}</p>
  </main>
</template>

<style scoped>
.sign {
  max-width: 760px;
  margin: 0 auto;
  padding: 40px 20px;
  display: flex;
  flex-direction: column;
  gap: 16px;
}
h1 {
  font-size: 52px;
}
.lead {
  font-size: 20px;
  max-width: 34em;
}
.rails path {
  fill: var(--paper);
  stroke: var(--ink);
  stroke-width: 2;
}
.rails .a {
  stroke-width: 4;
}
.rails .b {
  stroke-width: 4;
  stroke-dasharray: 14 7;
}
.who {
  flex: 1 1 200px;
  flex-direction: column;
  gap: 0;
  min-height: 72px;
}
.role {
  font-weight: 400;
  font-size: 15px;
}
.go {
  align-self: flex-end;
}
label {
  flex: 1 1 200px;
}
</style>
