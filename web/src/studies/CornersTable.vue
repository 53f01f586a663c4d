<script setup lang="ts">
import type { StudyColumn } from '@/api/client'
import { engineering, signedPercent } from '@/format/engineering'
import { computed } from 'vue'
import { effectsOf } from './corners'

/** What each factor does to a measurement by itself, the largest first, and the extremes of all together. */
const props = defineProps<{ column: StudyColumn; factors: readonly string[] }>()

const effects = computed(() => effectsOf(props.column.values, props.factors))
const largest = computed(() => Math.max(...effects.value.map(({ span }) => span), 1e-300))
const nominal = computed(() => props.column.values[0])
const value = (number: number | null | undefined) => engineering(number, props.column.unit)
const away = (number: number | null | undefined) => (number != null && nominal.value ? signedPercent((100 * (number - nominal.value)) / Math.abs(nominal.value)) : '')
</script>

<template>
  <table class="ruled corners">
    <thead><tr><td /><th scope="col" class="number">at its low end</th><th scope="col" class="number">at its high end</th><th scope="col">by itself</th></tr></thead>
    <tbody>
      <tr v-for="{ factor, low, high, span } in effects" :key="factor" :data-factor="factor">
        <th scope="row">{{ factor }}</th>
        <td class="number">{{ value(low) }}</td>
        <td class="number">{{ value(high) }}</td>
        <td class="bar"><i :style="{ width: `${(100 * span) / largest}%` }" /></td>
      </tr>
    </tbody>
    <tfoot v-if="column.summary">
      <tr><th scope="row">as drawn</th><td class="number" colspan="2">{{ value(nominal) }}</td><td /></tr>
      <tr><th scope="row">all together, least</th><td class="number" colspan="2" data-figure="least">{{ value(column.summary.min) }}</td><td class="soft">{{ away(column.summary.min) }}</td></tr>
      <tr><th scope="row">all together, greatest</th><td class="number" colspan="2" data-figure="greatest">{{ value(column.summary.max) }}</td><td class="soft">{{ away(column.summary.max) }}</td></tr>
    </tfoot>
  </table>
</template>

<style scoped>
.corners {
  width: 100%;
}

.corners th {
  font-weight: 400;
  text-align: left;
}

.bar {
  width: 34%;
}

.bar i {
  background: var(--ink);
  display: block;
  height: 8px;
  min-width: 1px;
}

tfoot tr:first-child > * {
  border-top: 2px solid var(--rule);
}
</style>
