<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { shrink } from '@/lib/shrink'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useOutbox } from '@/stores/outbox'
import { useSession } from '@/stores/session'

/** The photos of a step, and the way to take one more. One that still waits to be sent is shown from here. */
const props = defineProps<{ step: string; name: string }>()
const store = useJob()
const session = useSession()
const outbox = useOutbox()
const file = ref<HTMLInputElement>()
const failed = ref(false)
const missing = reactive(new Set<string>())
const waiting = computed(() => new Map(outbox.of(store.job!.id).map((e) => [e.id, e.data as { jpeg?: string }])))
const photos = computed(() =>
  (store.job!.state.photos ?? [])
    .filter((p) => p.step === props.step)
    .map((p) => {
      const here = waiting.value.get(p.id)?.jpeg
      return { ...p, src: here ? 'data:image/jpeg;base64,' + here : `/api/jobs/${store.job!.id}/photos/${p.id}` }
    }),
)
async function take(e: Event) {
  const input = e.target as HTMLInputElement
  const chosen = input.files?.[0]
  failed.value = false
  if (!chosen) return
  try {
    const jpeg = await shrink(chosen, session.vocabulary?.photo_most ?? 0)
    store.send('photo', { step: props.step, jpeg })
  } catch {
    failed.value = true
  }
  input.value = ''
}
</script>

<template>
  <div class="photos" data-testid="photos">
    <template v-for="p in photos" :key="p.id">
      <span v-if="missing.has(p.id)" class="missing">{{ t('ui.photo_missing') }}</span>
      <a v-else :href="p.src" target="_blank" rel="noopener">
        <img :src="p.src" :alt="t('ui.photo_of', { what: name })" width="96" height="72" @error="missing.add(p.id)" />
      </a>
    </template>
    <button type="button" class="tap bare" data-testid="photo" @click="file?.click()">{{ t('ui.photo') }}</button>
    <input
      ref="file"
      type="file"
      accept="image/*"
      capture="environment"
      class="gone"
      tabindex="-1"
      :aria-label="t('ui.photo_of', { what: name })"
      data-testid="photo-file"
      @change="take"
    />
    <span v-if="failed" role="alert">{{ t('ui.photo_too_big') }}</span>
  </div>
</template>

<style scoped>
.photos {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
img {
  object-fit: cover;
  border: 1px solid var(--ink);
  display: block;
}
.missing {
  width: 96px;
  min-height: 72px;
  border: 1px dashed var(--ink);
  padding: 4px;
}
</style>
