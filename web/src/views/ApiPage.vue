<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import TopBar from '@/components/TopBar.vue'
import { t } from '@/lib/words'

/** The API's description, as the server makes it from its own routes, to be read. */
interface Schema {
  $ref?: string
  type?: string | string[]
  items?: Schema
  properties?: Record<string, Schema>
  allOf?: Schema[]
  description?: string
}
interface Operation {
  summary?: string
  operationId?: string
  parameters?: { name: string; in: string; schema?: Schema }[]
  requestBody?: { content: Record<string, { schema?: Schema }> }
  responses: Record<string, { content?: Record<string, { schema?: Schema }> }>
}
interface Description {
  paths: Record<string, Record<string, Operation>>
  components: { schemas: Record<string, Schema> }
}
const doc = ref<Description | null>(null)
const failed = ref(false)
onMounted(async () => {
  try {
    doc.value = (await (await fetch('/api/openapi.json')).json()) as Description
  } catch {
    failed.value = true
  }
})
const text = ref('')
const nameOf = (s: Schema | undefined): string => {
  const ref = s?.$ref ?? s?.allOf?.[0]?.$ref
  if (ref) return ref.split('/').at(-1)!
  if (s?.type === 'array' || (Array.isArray(s?.type) && s.type.includes('array'))) return nameOf(s.items) + '[]'
  return [s?.type ?? 'any'].flat().join(' | ')
}
const first = (c: Record<string, { schema?: Schema }> | undefined) => Object.entries(c ?? {})[0]
const calls = computed(() =>
  Object.entries(doc.value?.paths ?? {}).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, o]) => {
      const ok = Object.entries(o.responses).find(([code]) => code.startsWith('2'))?.[1]
      const answer = first(ok?.content)
      return {
        path,
        method: method.toUpperCase(),
        summary: o.summary ?? '',
        asks: (o.parameters ?? []).map((p) => `${p.name} (${p.in}): ${nameOf(p.schema)}`),
        body: nameOf(first(o.requestBody?.content)?.[1].schema),
        hasBody: !!o.requestBody,
        answer: answer ? (answer[0].includes('json') ? nameOf(answer[1].schema) : answer[0]) : '',
      }
    }),
  ),
)
const shown = computed(() => {
  const want = text.value.toLowerCase()
  return calls.value.filter((c) => (c.path + c.summary).toLowerCase().includes(want))
})
const fields = (name: string) =>
  Object.entries(doc.value?.components.schemas[name.replace('[]', '')]?.properties ?? {}).map(
    ([k, s]) => `${k}: ${nameOf(s)}`,
  )
</script>

<template>
  <TopBar />
  <main class="page">
    <h1>{{ t('ui.api_page') }}</h1>
    <p class="small">{{ t('ui.api_note') }} <a href="/api/openapi.json">openapi.json</a></p>
    <p v-if="failed" class="problem" role="alert">{{ t('problem.network') }}</p>
    <p v-else-if="!doc" role="status">{{ t('ui.loading') }}</p>
    <NInput
      v-model:value="text"
      clearable
      :placeholder="t('ui.search')"
      :input-props="{ 'aria-label': t('ui.search'), type: 'search' }"
    />
    <details v-for="c in shown" :key="c.method + c.path" class="field call" data-testid="api-call">
      <summary>
        <strong class="fig">{{ c.method }} {{ c.path }}</strong>
        <span class="small">{{ c.summary }}</span>
      </summary>
      <ul>
        <li v-for="a in c.asks" :key="a" class="fig">{{ a }}</li>
        <li v-if="c.hasBody">
          {{ t('ui.api_body') }}: <strong>{{ c.body }}</strong>
          <span class="small fig"> {{ fields(c.body).join(', ') }}</span>
        </li>
        <li v-if="c.answer">
          {{ t('ui.api_answer') }}: <strong>{{ c.answer }}</strong>
          <span class="small fig"> {{ fields(c.answer).join(', ') }}</span>
        </li>
      </ul>
    </details>
  </main>
</template>

<style scoped>
.call {
  padding: 4px 14px;
}
.call + .call {
  margin-top: 6px;
}
summary {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  min-height: 48px;
  cursor: pointer;
}
li {
  overflow-wrap: anywhere;
}
</style>
