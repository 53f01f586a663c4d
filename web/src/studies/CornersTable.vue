<script setup lang="ts">
import type { StudyColumn } from '@/api/client'
import { useStudy } from '@/api/queries'
import { engineering, signedPercent } from '@/format/engineering'
import { computed } from 'vue'

/** What each factor does to a measurement by itself, the largest first, and three ways to put them together. */
const props = defineProps<{ boardId: string; column: StudyColumn; corners: NonNullable<StudyColumn['corners']>
  /** A study on the same board that draws from the spreads, if there is one. */
  beside: string | undefined }>()
const emit = defineEmits<{ open: [row: number] }>()

const spans = computed(() => props.corners.effects.map(({ low, high }) => (low != null && high != null ? Math.abs(high - low) : 0)))
const largest = computed(() => Math.max(...spans.value, 1e-300))
const nominal = computed(() => props.corners.nominal)
const value = (number: number | null | undefined) => engineering(number, props.column.unit)
const away = (number: number | null | undefined) => (number != null && nominal.value ? signedPercent((100 * (number - nominal.value)) / Math.abs(nominal.value)) : '')
/** A level from -1 over what is drawn to 1, as how far it went to its end. */
const stands = (part: number) => `${Math.abs(100 * part).toFixed(0)} % to its ${part < 0 ? 'low' : 'high'} end`
const turning = computed(() => props.corners.effects.filter(({ turns }) => turns).map(({ factor }) => factor))

const { data: drawn } = useStudy(() => props.boardId, () => props.beside)
const drawnOf = computed(() => (drawn.value?.current ? drawn.value.columns.find(({ check, id }) => check === props.column.check && id === props.column.id)?.summary : undefined))
const ends = computed(() => [
  { name: 'extreme values', title: 'All corners, or those that the effects point to', low: props.corners.least?.value, high: props.corners.greatest?.value },
  { name: 'root sum of squares', title: 'Every factor independent, effects adding up: exceeded by one unit in many', low: props.corners.square_low, high: props.corners.square_high },
  ...(drawnOf.value ? [{ name: `${drawn.value?.study.title}, 1 % and 99 %`, title: `${drawnOf.value.n} units drawn from the spreads`, low: drawnOf.value.p1, high: drawnOf.value.p99 }] : []),
])
</script>

<template>
  <table class="ruled corners">
    <thead><tr><td /><th scope="col" class="number">at its low end</th><th scope="col" class="number">at its high end</th><th scope="col">by itself</th></tr></thead>
    <tbody>
      <tr v-for="({ factor, low, high, turns }, k) in corners.effects" :key="factor" :data-factor="factor">
        <th scope="row">{{ factor }}<small v-if="turns" class="turns" title="Both ends lie on one side of what it is as drawn: the extreme is in between"> turns</small></th>
        <td class="number">{{ value(low) }}</td>
        <td class="number">{{ value(high) }}</td>
        <td class="bar"><i :style="{ width: `${(100 * (spans[k] ?? 0)) / largest}%` }" /></td>
      </tr>
    </tbody>
  </table>
  <table class="ruled corners together">
    <thead><tr><th scope="col">All together</th><th scope="col" class="number">least</th><td /><th scope="col" class="number">greatest</th><td /></tr></thead>
    <tbody>
      <tr><th scope="row">as drawn</th><td class="number">{{ value(nominal) }}</td><td /><td class="number">{{ value(nominal) }}</td><td /></tr>
      <tr v-for="({ name, title, low, high }, k) in ends" :key="name" :title="title" :data-way="name">
        <th scope="row">{{ name }}</th>
        <td class="number" :data-figure="k ? undefined : 'least'">{{ value(low) }}</td><td class="soft number">{{ away(low) }}</td>
        <td class="number" :data-figure="k ? undefined : 'greatest'">{{ value(high) }}</td><td class="soft number">{{ away(high) }}</td>
      </tr>
    </tbody>
  </table>
  <p v-for="[name, end] in [['least', corners.least], ['greatest', corners.greatest]] as const" :key="name" class="corner">
    <template v-if="end">The {{ name }}, <button type="button" class="row" :title="`Open row ${end.row + 1} on the sheet`" @click="emit('open', end.row)">row {{ end.row + 1 }}</button>:
      <template v-if="end.high.length"><b>high</b> <span class="mono">{{ end.high.join(', ') }}</span></template>{{ end.high.length && end.low.length ? '; ' : '' }}<template v-if="end.low.length"><b>low</b> <span class="mono">{{ end.low.join(', ') }}</span></template><template v-for="({ factor, part }, k) in end.between" :key="factor">{{ k || end.high.length || end.low.length ? '; ' : '' }}<span class="mono">{{ factor }}</span> <b>{{ stands(part) }}</b></template>.</template>
  </p>
  <p v-if="corners.passed" class="wrong" role="status" data-within="worse">The worst is between the corners, where {{ corners.within }} rows were looked at.</p>
  <p v-else-if="turning.length" role="status" data-within="turns">It turns between the ends of {{ turning.join(', ') }}; of {{ corners.within }} rows that were looked at there none is worse than the corners.</p>
  <p v-else-if="corners.within" class="soft" data-within="none">On the way to the corners it goes in one direction: none of {{ corners.within }} rows in between is worse.</p>
</template>

<style scoped>
.corners {
  width: 100%;
}

.together {
  margin-top: 14px;
}

.corners th {
  font-weight: 400;
  text-align: left;
}

.corners th.number {
  text-align: right;
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

.corner {
  font-size: 0.8125rem;
  margin: 6px 0 0;
}

.row {
  color: var(--ink);
  text-decoration: underline;
}

.turns,
.wrong {
  color: var(--breaks);
}
</style>
