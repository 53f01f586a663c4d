<script setup lang="ts">
import type { DrawnSymbol } from './geometry'
import { REACH } from './blocks'

/** One symbol after IEC 60617; resistors and capacitors are the same lying and standing. */
defineProps<{ symbol: DrawnSymbol }>()
</script>

<template>
  <g
    class="symbol"
    :transform="`translate(${symbol.x} ${symbol.y})${symbol.turned && symbol.kind !== 'rail' && symbol.kind !== 'source' ? ' rotate(90)' : ''}`"
  >
    <template v-if="symbol.kind === 'resistor'">
      <path :d="`M${-REACH} 0H-19M19 0H${REACH}`" />
      <rect x="-19" y="-7" width="38" height="14" />
    </template>
    <template v-else-if="symbol.kind === 'capacitor'">
      <path :d="`M${-REACH} 0H-4M4 0H${REACH}`" />
      <path class="thick" d="M-4 -13V13M4 -13V13" />
    </template>
    <path
      v-else-if="symbol.kind === 'inductor'"
      :d="`M${-REACH} 0H-20a5 5 0 0 1 10 0a5 5 0 0 1 10 0a5 5 0 0 1 10 0a5 5 0 0 1 10 0H${REACH}`"
    />
    <template v-else-if="symbol.kind === 'amplifier'">
      <path d="M-40 -52V52L45 0Z" class="body" />
      <path d="M-55 -23H-40M-55 23H-40M45 0H55M-3 -53V-29M-3 53V29" />
      <path d="M-35 -23H-25M-30 -28V-18M-35 23H-25" />
    </template>
    <template v-else-if="symbol.kind === 'source'">
      <circle r="15" class="body" />
      <path :d="`M0 ${-REACH}V-15M0 15V${REACH}M-8 0c3 -9 5 -9 8 0s5 9 8 0`" />
    </template>
    <path v-else-if="symbol.kind === 'ground'" d="M0 0V6M-9 6H9M-5.5 10H5.5M-2 14H2" />
    <path v-else-if="symbol.kind === 'rail'" class="thick" d="M-9 0H9" />
  </g>
</template>

<style scoped>
.symbol path,
.symbol rect,
.symbol circle {
  fill: none;
  stroke: var(--ink);
  stroke-linecap: round;
  stroke-width: 1.5;
}

.symbol rect,
.symbol .body {
  fill: var(--paper-raised);
}

.symbol .thick {
  stroke-width: 2.2;
}
</style>
