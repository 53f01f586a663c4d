<script setup lang="ts">
import type { CheckCard, CheckView } from '@/api/client'
import { engineering } from '@/format/engineering'
import { computed } from 'vue'
import CardFrame from './CardFrame.vue'

/** The natural frequencies of a circuit, the least damped first: what grows, what rings and by how much, what creeps. */
const props = defineProps<{ card: CheckCard; result: CheckView | undefined; baseline: CheckView | undefined; computing: boolean; active: boolean }>()
const emit = defineEmits<{ enlarge: []; hide: []; print: []; drop: [expression: string]; activate: [] }>()

const MOST = 8
const modes = computed(() => props.result?.modes ?? [])
const shown = computed(() => modes.value.slice(0, MOST))

/** In words; the overshoot is that of a step of two poles alone. */
function words(damping: number): string {
  if (damping < 0) return 'grows'
  if (damping >= 0.9999) return 'does not ring'
  const overshoot = 100 * Math.exp((-Math.PI * damping) / Math.sqrt(1 - damping ** 2))
  return overshoot < 0.1 ? 'hardly rings' : `rings, ${overshoot.toPrecision(2)} % over`
}
</script>

<template>
  <CardFrame :card="card" :computing="computing" :active="active" :enlarges="false" @hide="emit('hide')" @print="emit('print')" @activate="emit('activate')">
    <template #handle><slot name="handle" /></template>
    <table v-if="shown.length" class="poles">
      <thead><tr><th scope="col" class="number">Frequency</th><th scope="col" class="number">Damping</th><th scope="col">By itself</th><th scope="col" title="The net that swings farthest in it">Moves most</th></tr></thead>
      <tbody>
        <tr v-for="({ frequency, damping, net }, k) in shown" :key="k" :class="{ grows: damping < 0 }">
          <td class="number">{{ engineering(frequency, 'Hz') }}</td>
          <td class="number">{{ damping.toFixed(3) }}</td>
          <td>{{ words(damping) }}</td>
          <td class="mono">{{ net }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="modes.length > MOST" class="soft">and {{ modes.length - MOST }} that are damped more</p>
    <p v-if="!modes.length && !computing" class="soft">No natural frequencies are known of this circuit.</p>
  </CardFrame>
</template>

<style scoped>
.poles {
  border-collapse: collapse;
  font-size: 0.8125rem;
  width: 100%;
}

th {
  color: var(--ink-soft);
  font-size: var(--size-small);
  font-weight: 400;
  text-align: left;
}

th,
td {
  padding: 2px 12px 2px 0;
}

.number {
  text-align: right;
}

.grows {
  color: var(--breaks);
  font-weight: 600;
}

p {
  font-size: var(--size-small);
  margin: 4px 0 0;
}
</style>
