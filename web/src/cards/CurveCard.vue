<script setup lang="ts">
import type { CheckCard, CheckView } from '@/api/client'
import { engineering } from '@/format/engineering'
import { densityScales, panesOf, planeOf, plotCurve, type PlotAxis, type PlotCurve } from '@/plot/curves'
import PlotStack from '@/plot/PlotStack.vue'
import { strokeOf } from '@/plot/strokes'
import { mdiClose } from '@mdi/js'
import { computed } from 'vue'
import { curveOf } from './cardEdits'
import CardFrame from './CardFrame.vue'

/** A card: some curves of a check, small; at full size it is the evidence. */
const props = defineProps<{
  card: CheckCard
  result: CheckView | undefined
  /** What was before a value was turned: it stays behind as thin lines. */
  baseline: CheckView | undefined
  computing: boolean
  active: boolean
}>()
const emit = defineEmits<{ enlarge: []; hide: []; print: []; drop: [expression: string]; activate: [] }>()

const plane = computed(() => planeOf(props.card.shape))
const shown = computed(() => props.card.curves.map((curve, index) => ({ ...curve, index, view: curveOf(props.result, curve.expression) })))
const drawn = computed(() => {
  const found: { curve: PlotCurve; axis: PlotAxis }[] = []
  for (const [result, behind] of [[props.result, false], [props.baseline, true]] as const) {
    for (const [index, { expression, pane }] of props.card.curves.entries()) {
      const view = curveOf(result, expression)
      const curve = view && plotCurve(view, expression, pane, index, plane.value, behind)
      if (curve && view.axis) found.push({ curve, axis: view.axis })
    }
  }
  return panesOf(found)
})
</script>

<template>
  <CardFrame :card="card" :computing="computing" :active="active" enlarges @enlarge="emit('enlarge')" @hide="emit('hide')" @print="emit('print')" @activate="emit('activate')">
    <template #handle><slot name="handle" /></template>
    <PlotStack v-if="drawn.length" :panes="drawn" :shape="plane" :logarithmic="densityScales(drawn)" :label="`${card.title}: ${card.curves.map(({ expression }) => expression).join(', ')}`" />
    <p v-else-if="!card.curves.length" class="soft">Nothing is shown here yet. Choose <b>Look</b> above the sheet, then click a net or a pin.</p>
    <template #below>
      <ul class="legend">
        <li v-for="{ expression, index, view } in shown" :key="expression">
          <svg width="26" height="8" aria-hidden="true"><path d="M0 4H26" :stroke="`var(${strokeOf(index).token})`" :stroke-dasharray="strokeOf(index).dash.join(' ')" stroke-width="2" /></svg>
          <span class="mono" :class="{ wrong: view?.problem }" :title="view?.problem || undefined">{{ expression }}</span>
          <b v-if="view?.number != null" class="mono">{{ engineering(view.number, view.unit) }}</b>
          <small v-if="view?.problem" class="wrong">{{ view.problem }}</small>
          <button type="button" class="drop" :title="`Take ${expression} off this card`" :aria-label="`Take ${expression} off ${card.title}`" @click="emit('drop', expression)"><v-icon :icon="mdiClose" size="12" /></button>
        </li>
      </ul>
    </template>
  </CardFrame>
</template>

<style scoped>
.legend {
  display: flex;
  flex-wrap: wrap;
  font-size: var(--size-small);
  gap: 0 12px;
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  align-items: center;
  display: flex;
  gap: 5px;
}

.wrong {
  color: var(--breaks);
}

.drop {
  color: var(--ink-soft);
  opacity: 0.6;
}

.drop:hover,
.drop:focus-visible {
  opacity: 1;
}

@media print {
  .drop {
    display: none;
  }
}
</style>
