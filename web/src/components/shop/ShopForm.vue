<script setup lang="ts">
import { NInput } from 'naive-ui'
import { ref, watch } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import NumField from '@/components/NumField.vue'
import { useAsked } from '@/lib/asked'
import { languages, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** What is the shop's own to set. */
const session = useSession()
const { value, problem, act } = useAsked(() => ask(api.GET('/api/settings')))
const form = ref<Schemas['JobSettings'] | null>(null)
const saved = ref(false)
watch(value, (v) => v && (form.value ??= { ...v }))
async function save() {
  saved.value = !!(await act(() => ask(api.PUT('/api/settings', { body: form.value! }))))
}
function mark(e: Event) {
  const file = (e.target as HTMLInputElement).files?.[0]
  if (!file || !form.value) return
  const r = new FileReader()
  r.onload = () => (form.value!.mark = String(r.result))
  r.readAsDataURL(file)
}
const numbers = [
  ['hourly', 0, 1000],
  ['due_years', 1, 3],
  ['comeback_days', 7, 365],
  ['bottle_days', 7, 730],
] as const
</script>

<template>
  <section v-if="form" class="field" data-testid="settings">
    <header>
      <h2>{{ t('ui.settings') }}</h2>
    </header>
    <Faults v-if="problem" :problem="problem" />
    <div class="cols">
      <label
        ><span class="small">{{ t('ui.shop_name') }}</span
        ><NInput v-model:value="form.name" placeholder="" data-testid="shop-name"
      /></label>
      <label
        ><span class="small">{{ t('ui.shop_address') }}</span
        ><NInput v-model:value="form.address" type="textarea" placeholder=""
      /></label>
      <label
        ><span class="small">{{ t('ui.currency') }}</span
        ><NInput v-model:value="form.currency" placeholder=""
      /></label>
      <label
        ><span class="small">{{ t('ui.zone') }}</span
        ><NInput v-model:value="form.zone" placeholder="Europe/Berlin"
      /></label>
      <NumField
        v-for="[k, lo, hi] in numbers"
        :key="k"
        :model-value="form[k]"
        name="plain"
        unitless
        :label="t('ui.' + k)"
        :min="lo"
        :max="hi"
        @update:model-value="(v) => v != null && (form![k] = v)"
      />
      <Choice
        :label="t('ui.paper')"
        :value="form.paper"
        :options="['a4', 'letter'].map((id) => ({ id, label: t('paper.' + id) }))"
        @pick="(v) => v && (form!.paper = v)"
      />
      <Choice
        :label="t('ui.paper_language')"
        :value="form.language || 'en'"
        :options="Object.entries(languages).map(([id, label]) => ({ id, label }))"
        @pick="(v) => v && (form!.language = v)"
      />
      <Choice
        :label="t('ui.release_by')"
        :value="form.release_by"
        :options="['technician', 'lead'].map((id) => ({ id, label: t('role.' + id) }))"
        @pick="(v) => v && (form!.release_by = v as never)"
      />
      <label v-if="session.shops" class="tap"
        ><input v-model="form.share_vehicles" type="checkbox" data-testid="share-vehicles" />
        {{ t('ui.share_vehicles') }}</label
      >
      <label class="tap"
        ><input v-model="form.broker" type="checkbox" data-testid="broker" /> {{ t('ui.broker') }}</label
      >
      <label class="tap"
        >{{ t('ui.shop_mark') }}<input type="file" accept="image/png,image/jpeg" class="file" @change="mark"
      /></label>
    </div>
    <div class="row">
      <button type="button" class="tap main" data-testid="settings-save" @click="save">{{ t('ui.save') }}</button>
      <span v-if="saved" role="status">{{ t('ui.saved') }}</span>
      <img v-if="form.mark" :src="form.mark" alt="" height="48" />
    </div>
  </section>
</template>

<style scoped>
.row {
  margin-top: 14px;
}
.file {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
</style>
