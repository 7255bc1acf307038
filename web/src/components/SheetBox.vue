<script setup lang="ts">
import { NModal } from 'naive-ui'

/** What is asked or shown over the page: with a name and a heading of its own, for whoever hears the page. */
withDefaults(defineProps<{ show: boolean; title: string; width?: number; closable?: boolean }>(), {
  width: 560,
  closable: true,
})
defineEmits<{ 'update:show': [boolean] }>()
</script>

<template>
  <NModal
    :show="show"
    preset="card"
    role="dialog"
    aria-modal="true"
    :aria-label="title"
    :style="{ width: width + 'px', maxWidth: '95vw' }"
    :closable="closable"
    :mask-closable="closable"
    :close-on-esc="closable"
    @update:show="(v: boolean) => $emit('update:show', v)"
  >
    <template #header>
      <h2>{{ title }}</h2>
    </template>
    <slot />
  </NModal>
</template>
