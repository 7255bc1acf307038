<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas, System } from '@/api/client'
import { assistOf, powered } from '@/lib/assist'
import { t } from '@/lib/words'

/** The joint along its axis as it stands now: what is off lies apart below it, the part in hand is lit. */
const props = defineProps<{
  system: System
  off: string[]
  /** Caught by their thread, or cracked since they were tight. */
  started: string[]
  lit: string[]
  present: string[]
  lines: Schemas['PlanLine'][]
}>()
const assist = computed(() => assistOf(props.system))
const trailer = computed(() => !!props.system.actuator)
const isOff = (...parts: string[]) => parts.some((p) => props.off.includes(p))
const isLit = (...parts: string[]) => parts.some((p) => props.lit.includes(p))
const cls = (...parts: string[]) => ({ off: isOff(...parts), lit: isLit(...parts) })
/** An electro-hydraulic unit is one piece: cylinder and booster come and go together. */
const cylinderParts = computed(() =>
  assist.value.one_piece ? ['firewall_nuts'] : ['cylinder', 'actuator_bolts', 'box', 'side_plugs', 'port_fitting'],
)
const boosterParts = ['firewall_nuts']
const overIt = computed(() =>
  ['air_box', 'neighbour_bracket', 'wiper_cowl', 'linkage_tray', 'strut_brace', 'dipstick_tube', 'floor_tray'].filter(
    (f) => props.present.includes(f),
  ),
)
const circuits = computed(() => props.system.circuits.map((c) => c.id))
</script>

<template>
  <svg viewBox="0 0 420 236" role="img" :aria-label="t('ui.joint_drawing')" data-testid="joint">
    <path d="M8 96H412" class="axis" />
    <g v-for="(f, i) in overIt" :key="f" :class="cls(f)">
      <rect :x="118 + i * 6" :y="8 + i * 4" width="236" height="10" class="over" />
      <text v-if="i === 0" x="122" y="17" class="tiny">{{ t('feature.' + f) }}</text>
    </g>
    <template v-if="!trailer">
      <!-- pedal, pin and rod -->
      <g :class="cls('pedal_end', 'kick_panel')">
        <path d="M34 34C26 60 26 110 44 150l14-4" class="part pedal" />
        <circle cx="32" cy="96" r="9" class="part" />
      </g>
      <g :class="cls('rod')">
        <path d="M44 96H128" class="stick" />
        <circle v-if="present.includes('rod_coupler')" cx="208" cy="96" r="5" class="part" />
      </g>
      <path d="M96 40V152" class="wall" />
      <text x="96" y="34" text-anchor="middle" class="tiny">{{ t('joint_part.firewall') }}</text>
      <!-- booster with what hangs on it -->
      <g v-if="powered(assist)" :class="cls(...boosterParts)">
        <ellipse v-if="assist.vacuum" cx="152" cy="96" rx="44" ry="52" class="part" />
        <rect v-else x="112" y="68" width="86" height="56" class="part" />
        <text x="152" y="100" text-anchor="middle">
          {{ t(assist.one_piece ? 'joint_part.unit' : 'joint_part.booster') }}
        </text>
      </g>
      <g v-if="assist.vacuum" :class="cls('vacuum_hose')">
        <path d="M164 46C168 28 196 30 214 30" class="hose" />
      </g>
      <g v-else-if="assist.steering" :class="cls('pressure_lines', 'pressure_lines_on_floor')">
        <path d="M130 124v22h-28M150 124v30h-48" class="hose thin" />
      </g>
      <g v-if="present.includes('pressure_plate')" :class="cls('pressure_plate')">
        <rect x="204" y="62" width="6" height="68" class="part" />
      </g>
      <g v-if="present.includes('stacked_bracket')" :class="cls('stacked_bracket')">
        <path d="M218 66v-14h16" class="part" />
      </g>
    </template>
    <!-- cylinder, reservoir, plugs, lines -->
    <g :class="cls(...cylinderParts)">
      <rect x="222" y="76" width="126" height="40" class="part" />
      <path d="M222 66V126" class="flange" />
      <text v-if="!assist.one_piece" x="286" y="100" text-anchor="middle">
        {{ t('joint_part.cylinder') }}
      </text>
      <g :class="cls('reservoir', 'remote_hoses')">
        <path d="M236 40h92v28l-8 8h-76l-8-8z" class="part" />
      </g>
    </g>
    <g v-if="present.includes('level_sensor')" :class="cls('sensor_plug')">
      <path d="M328 50h14v10h-14" class="part" />
    </g>
    <g v-if="present.includes('pressure_sensors')" :class="cls('pressure_sensors')">
      <path d="M300 116v12h12v-12" class="part" />
    </g>
    <g :class="[cls('lines'), { aside: isOff('cylinder') && !isOff('lines') && !started.includes('lines') }]">
      <g v-for="(c, i) in circuits" :key="c">
        <path :d="`M${328 - i * 70} 116v${34 + i * 22}h${78 + i * 70}`" :class="i ? 'line-b' : 'line-a'" class="pipe" />
        <text :x="404" :y="145 + i * 22" text-anchor="end" class="tiny">{{ c }}</text>
      </g>
    </g>
    <g v-if="present.includes('modulator_lines')" :class="cls('modulator_lines')">
      <path d="M352 190h56M352 198h56" class="pipe thin" />
    </g>
    <text x="8" y="228" class="tiny">{{ off.length ? t('ui.off_now') : t('ui.all_on') }}</text>
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  display: block;
}
.axis {
  stroke: var(--rule);
  stroke-dasharray: 14 4 3 4;
}
.part {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 2;
}
.pedal {
  fill: none;
  stroke-width: 5;
}
.stick {
  stroke: var(--ink);
  stroke-width: 6;
}
.wall {
  stroke: var(--ink);
  stroke-width: 5;
}
.flange {
  stroke: var(--ink);
  stroke-width: 5;
}
.hose,
.pipe {
  fill: none;
  stroke: var(--ink);
  stroke-width: 6;
}
.hose.thin,
.pipe.thin {
  stroke-width: 3;
}
.pipe {
  stroke-width: 3.5;
}
.over {
  fill: var(--rule-soft);
  stroke: var(--ink-2);
}
.lit > .part,
.lit > .over {
  fill: var(--brass);
}
.lit > .stick,
.lit > .hose,
.lit > .pedal,
.lit .pipe {
  stroke: var(--brass);
}
/* Swung aside on its lines: they go with it. */
.aside {
  transform: translateY(58px);
}
.off {
  transform: translateY(58px);
  opacity: 0.75;
}
.off .part,
.off .pipe,
.off .hose {
  stroke-dasharray: 5 4;
}
text {
  font-size: 14px;
  fill: var(--ink);
}
.tiny {
  font-size: 12px;
}
@media (prefers-reduced-motion: no-preference) {
  g {
    transition: transform 0.25s;
  }
}
</style>
