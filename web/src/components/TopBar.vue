<script setup lang="ts">
import { onClickOutside, onKeyStroke, useMediaQuery } from '@vueuse/core'
import { ref, useTemplateRef, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { keysShown, useKeys } from '@/lib/keys'
import { language, languages, otherLanguages, speak, t, type Language } from '@/lib/words'
import { useSession } from '@/stores/session'

const session = useSession()
const router = useRouter()
const route = useRoute()
/** On what is held in the hand the head is one line: the rest of it opens under one button. */
const narrow = useMediaQuery('(max-width: 1000px)')
const open = ref(false)
const menu = useTemplateRef<HTMLElement>('menu')
onClickOutside(menu, () => (open.value = false))
onKeyStroke('Escape', () => (open.value = false))
watch(
  () => route.fullPath,
  () => (open.value = false),
)
const night = () => void session.prefer({ theme: session.night ? 'day' : 'night' })
useKeys({ n: night, b: () => void router.push('/') })
const units = ['metric', 'us', 'both']
function turn() {
  const now = units.indexOf(session.pref)
  void session.prefer({ units: units[(now + 1) % 3] })
}
const other = otherLanguages(language())
async function read(l: Language) {
  await session.prefer({ language: l })
  await speak(l)
  location.reload() // words put together once are put together anew
}
</script>

<template>
  <header class="top">
    <RouterLink to="/" class="brand" data-testid="back-to-bay" :aria-label="'Geminate, ' + t('ui.bay')">
      <svg viewBox="0 0 40 32" width="40" height="32" aria-hidden="true">
        <path d="M1 12H39" class="a" />
        <path d="M1 20H39" class="b" />
        <path d="M14 4h12l6 12-6 12H14L8 16z" class="nut" />
      </svg>
      <span>Geminate</span>
    </RouterLink>
    <slot />
    <div ref="menu" class="tools">
      <button
        v-if="narrow"
        type="button"
        class="tap bare"
        :aria-expanded="open"
        aria-controls="menu"
        data-testid="menu"
        @click="open = !open"
      >
        {{ t('ui.menu') }}
      </button>
      <div v-show="!narrow || open" id="menu" :class="narrow ? 'drop' : 'row line'">
        <template v-if="!$slots.default && session.may('read_jobs')">
          <RouterLink class="tap bare" to="/vehicles" data-testid="to-vehicles">{{ t('ui.vehicles') }}</RouterLink>
          <RouterLink class="tap bare" to="/practice" data-testid="to-practice">{{ t('practice.short') }}</RouterLink>
          <RouterLink class="tap bare" to="/figures" data-testid="to-figures">{{ t('ui.figures') }}</RouterLink>
          <RouterLink class="tap bare" to="/shop" data-testid="to-shop">{{ t('ui.the_shop') }}</RouterLink>
          <RouterLink class="tap bare" to="/shelf" data-testid="to-shelf">{{ t('ui.catalogue') }}</RouterLink>
          <RouterLink v-if="session.may('read_audit')" class="tap bare" to="/audit" data-testid="to-audit">{{
            t('ui.audit')
          }}</RouterLink>
        </template>
        <RouterLink class="tap bare" to="/words" data-testid="to-words">{{ t('ui.words_short') }}</RouterLink>
        <button
          v-if="!narrow"
          class="tap bare"
          :aria-label="t('keys.title')"
          data-testid="keys"
          @click="keysShown = true"
        >
          ?
        </button>
        <button class="tap bare" data-testid="units" :title="t('ui.units')" @click="turn">
          {{ t('units.' + session.pref) }}
        </button>
        <button v-for="l in other" :key="l" class="tap bare" :lang="l" :data-testid="'language-' + l" @click="read(l)">
          {{ languages[l] }}
        </button>
        <button class="tap bare" data-testid="theme" @click="night">
          {{ t(session.night ? 'ui.day' : 'ui.night') }}
        </button>
        <button class="tap bare" :title="session.user?.display" data-testid="sign-out" @click="session.signOut()">
          {{ t('ui.sign_out') }}
        </button>
      </div>
    </div>
  </header>
</template>

<style scoped>
.top {
  position: relative;
  z-index: 20;
  display: flex;
  gap: 18px;
  align-items: center;
  padding: 4px 16px;
  border-bottom: 1px solid var(--rule);
  background: var(--sheet);
}
.brand {
  display: flex;
  gap: 10px;
  align-items: center;
  font-family: 'Barlow Condensed', sans-serif;
  font-weight: 600;
  font-size: 25px;
  color: var(--ink);
  text-decoration: none;
  min-height: 48px;
  min-width: 44px;
}
.tools {
  margin-left: auto;
  flex: 0 1 auto;
}
.line {
  gap: 0;
  justify-content: flex-end;
}
.drop {
  position: absolute;
  right: 0;
  top: 100%;
  width: min(100%, 320px);
  display: grid;
  background: var(--sheet);
  border: 1px solid var(--ink);
  border-top: 4px double var(--ink);
}
.drop > * {
  justify-content: flex-start;
  border-bottom: 1px solid var(--rule-soft);
}
.a,
.b {
  stroke: var(--ink);
  stroke-width: 3;
}
.b {
  stroke-dasharray: 6 3;
}
.nut {
  fill: var(--brass);
  stroke: var(--ink);
  stroke-width: 2;
}
@media (max-width: 1000px) {
  .brand span {
    display: none;
  }
  .top {
    gap: 8px;
    padding: 2px 10px;
  }
}
</style>
