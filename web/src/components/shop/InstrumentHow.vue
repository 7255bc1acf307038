<script setup lang="ts">
import { t } from '@/lib/words'

/** How an instrument tells its figures, for whoever sets one up: all of it without leaving the page. */
const url = location.origin
const curl = `curl -X POST ${url}/api/readings -H "Authorization: Bearer SECRET" \\
  -H "Content-Type: application/senml+json" -d '[{"n":"travel","u":"m","v":0.0712}]'`
const mqtt = `mosquitto_pub -h ${location.hostname} -p 8883 -u ID -P SECRET -t geminate/ID \\
  -m '[{"n":"travel","u":"m","v":0.0712}]'`
</script>

<template>
  <p>{{ t('instrument.how_pack') }}</p>
  <pre class="fig" lang="zxx">{{ curl }}</pre>
  <p>{{ t('instrument.how_mqtt') }}</p>
  <pre class="fig" lang="zxx">{{ mqtt }}</pre>
  <p>{{ t('instrument.how_units') }}</p>
  <p>{{ t('instrument.how_kept') }}</p>
</template>

<style scoped>
pre {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
</style>
