<script setup lang="ts">
import { engineering } from '@/format/engineering'
import type { PlotAxis, PlotCurve } from '@/plot/curves'
import type { CursorName, Cursors } from './useCursors'

/** What every curve says at the two cursors, and where else the cursor can go. */
defineProps<{ axis: PlotAxis | undefined; curves: readonly PlotCurve[]; cursors: Cursors }>()
const moving = defineModel<CursorName>('moving', { required: true })
const level = defineModel<string>('level', { required: true })
const emit = defineEmits<{ extreme: [greatest: boolean]; halfPower: []; level: [way: 1 | -1] }>()

/** More curves than this are not read out at once. */
const MOST = 20
</script>

<template>
  <p v-if="cursors.at.value.A === null" class="soft">Click the plot for cursor A, Shift click for B; arrows move them.</p>
  <table v-else class="ruled">
    <thead><tr><th /><th class="number">A</th><th class="number">B</th><th class="number">B − A</th></tr></thead>
    <tbody>
      <tr><td class="soft">{{ axis?.title }}</td><td class="number" data-cursor="A">{{ engineering(cursors.at.value.A, axis?.unit) }}</td><td class="number" data-cursor="B">{{ engineering(cursors.at.value.B, axis?.unit) }}</td><td class="number">{{ engineering(cursors.distance.value, axis?.unit) }}</td></tr>
      <template v-for="curve in curves.slice(0, MOST)" :key="curve.key">
        <tr class="name"><td colspan="4" class="mono">{{ curve.title }}</td></tr>
        <tr>
          <td class="soft"><small :title="cursors.at.value.B === null ? 'Slope at A' : 'Slope from A to B'">{{ engineering(cursors.readings.value.get(curve.key)?.slope, '', 3) }} {{ curve.unit }}/{{ axis?.unit || '1' }}</small></td>
          <td class="number">{{ engineering(cursors.readings.value.get(curve.key)?.a, curve.unit) }}</td>
          <td class="number">{{ engineering(cursors.readings.value.get(curve.key)?.b, curve.unit) }}</td>
          <td class="number">{{ engineering(cursors.readings.value.get(curve.key)?.difference, curve.unit) }}</td>
        </tr>
      </template>
    </tbody>
  </table>
  <div class="jumps" role="group" aria-label="Move the cursor to">
    <select v-model="moving" aria-label="Which cursor moves"><option>A</option><option>B</option></select>
    <button type="button" title="Greatest value in what is seen (X)" @click="emit('extreme', true)">maximum</button>
    <button type="button" title="Least value in what is seen (N)" @click="emit('extreme', false)">minimum</button>
    <button type="button" title="Half the power, below the peak (D)" @click="emit('halfPower')">−3 dB</button>
    <label>level <input v-model="level" class="mono" maxlength="20" aria-label="Level" @keydown.enter="emit('level', 1)"></label>
    <button type="button" title="Next crossing of the level (C)" @click="emit('level', 1)">next</button>
    <button type="button" title="Crossing before" @click="emit('level', -1)">before</button>
  </div>
</template>

<style scoped src="./small.css"></style>
<style scoped>
.name td {
  border-bottom: 0;
  padding-top: 4px;
}

.jumps {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  font-size: 0.75rem;
  gap: 3px 8px;
}

.jumps input {
  width: 64px;
}

.jumps button {
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  padding: 1px 6px;
}
</style>
