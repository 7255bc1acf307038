<script setup lang="ts">
/** An address as a code to point a phone at, with the address under it. */
withDefaults(defineProps<{ at: { url: string; code: string }; size?: number }>(), { size: 240 })
const picture = (svg: string) => 'data:image/svg+xml;utf8,' + encodeURIComponent(svg)
</script>

<template>
  <figure>
    <img :src="picture(at.code)" :alt="at.url" :width="size" :height="size" />
    <figcaption class="fig small">{{ at.url }}</figcaption>
  </figure>
</template>

<style scoped>
img {
  background: #fff;
  padding: 8px;
}
figure {
  margin: 8px 0;
}
figcaption {
  overflow-wrap: anywhere;
}
</style>
