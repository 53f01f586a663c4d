<script setup lang="ts">
import type { CheckCard, CheckView } from '@/api/client'
import { engineering } from '@/format/engineering'
import { panesOf, plotCurve, type PlotAxis, type PlotCurve } from '@/plot/curves'
import PlotStack from '@/plot/PlotStack.vue'
import { strokeOf } from '@/plot/strokes'
import { mdiArrowExpand, mdiClose, mdiEyeOffOutline, mdiPrinterOutline } from '@mdi/js'
import { computed } from 'vue'
import { curveOf } from './cardEdits'

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

const shown = computed(() => props.card.curves.map((curve, index) => ({ ...curve, index, view: curveOf(props.result, curve.expression) })))
const drawn = computed(() => {
  const found: { curve: PlotCurve; axis: PlotAxis }[] = []
  for (const [result, behind] of [[props.result, false], [props.baseline, true]] as const) {
    for (const [index, { expression, pane }] of props.card.curves.entries()) {
      const view = curveOf(result, expression)
      const curve = view && plotCurve(view, expression, pane, index, props.card.shape, behind)
      if (curve && view.axis) found.push({ curve, axis: view.axis })
    }
  }
  return panesOf(found)
})
</script>

<template>
  <section class="curve-card" :class="{ active }" :aria-busy="computing" :aria-label="card.title" :data-card="card.id" @pointerdown="emit('activate')">
    <header>
      <slot name="handle"><h2>{{ card.title }}</h2></slot>
      <span v-if="computing" class="soft" role="status">computing</span>
      <v-btn :icon="mdiArrowExpand" size="x-small" variant="text" title="Full size" :aria-label="`${card.title} at full size`" @click="emit('enlarge')" />
      <v-btn :icon="mdiPrinterOutline" size="x-small" variant="text" title="Print with the circuit" :aria-label="`Print ${card.title} with the circuit`" @click="emit('print')" />
      <v-btn :icon="mdiEyeOffOutline" size="x-small" variant="text" title="Hide this card" :aria-label="`Hide ${card.title}`" @click="emit('hide')" />
    </header>
    <div class="drawing" :class="{ stale: computing }">
      <PlotStack v-if="drawn.length" :panes="drawn" :shape="card.shape" :label="`${card.title}: ${card.curves.map(({ expression }) => expression).join(', ')}`" />
      <p v-else-if="!card.curves.length" class="soft">Nothing is shown here yet. Choose <b>Look</b> above the sheet, then click a net or a pin.</p>
    </div>
    <ul class="legend">
      <li v-for="{ expression, index, view } in shown" :key="expression">
        <svg width="26" height="8" aria-hidden="true"><path d="M0 4H26" :stroke="`var(${strokeOf(index).token})`" :stroke-dasharray="strokeOf(index).dash.join(' ')" stroke-width="2" /></svg>
        <span class="mono" :class="{ wrong: view?.problem }" :title="view?.problem || undefined">{{ expression }}</span>
        <b v-if="view?.number != null" class="mono">{{ engineering(view.number, view.unit) }}</b>
        <small v-if="view?.problem" class="wrong">{{ view.problem }}</small>
        <button type="button" class="drop" :title="`Take ${expression} off this card`" :aria-label="`Take ${expression} off ${card.title}`" @click="emit('drop', expression)"><v-icon :icon="mdiClose" size="12" /></button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.curve-card {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  display: flex;
  flex-direction: column;
  height: 100%;
  padding: 6px 10px 8px;
}

.curve-card.active {
  border-color: var(--ink-soft);
}

header {
  align-items: center;
  border-bottom: 1px solid var(--accent);
  display: flex;
  gap: 2px;
  padding-bottom: 2px;
}

h2 {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.drawing {
  contain: layout paint;
  flex: 1;
  min-height: 60px;
  padding-top: 4px;
}

.stale {
  opacity: 0.45;
}

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
  header .v-btn,
  .drop {
    display: none;
  }
}
</style>
