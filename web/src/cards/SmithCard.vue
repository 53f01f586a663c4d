<script setup lang="ts">
import type { CheckCard, CheckView, CurveView } from '@/api/client'
import { engineering } from '@/format/engineering'
import { strokeOf } from '@/plot/strokes'
import { computed, ref, watch } from 'vue'
import { curveOf } from './cardEdits'
import CardFrame from './CardFrame.vue'
import { inverse, LINES, nearest, onRim, quality, reactanceCircle, resistanceCircle, returnLoss, standingWave, type Complex } from './smith'

/** Reflections on the chart of impedances, with a cursor along the frequency that reads them out. */
const props = defineProps<{ card: CheckCard; result: CheckView | undefined; baseline: CheckView | undefined; computing: boolean; active: boolean }>()
const emit = defineEmits<{ enlarge: []; hide: []; print: []; drop: [expression: string]; activate: [] }>()

const points = ({ y, imaginary }: CurveView): Complex[] => (y ?? []).map((re, k) => ({ re: re ?? NaN, im: imaginary?.[k] ?? NaN }))
/** Curves of the first pane are drawn; what they are in ohms stands in the second, in the same order. */
function reflections(result: CheckView | undefined) {
  const [drawn, shown] = [0, 1].map((pane) => props.card.curves.filter((curve) => (curve.pane ?? 0) === pane))
  return (drawn ?? []).flatMap(({ expression }, index) => {
    const view = curveOf(result, expression)
    const ohms = curveOf(result, shown?.[index]?.expression ?? '')
    return view?.imaginary ? [{ expression, index, x: view.x ?? [], gamma: points(view), ohms: ohms?.imaginary ? points(ohms) : [] }] : []
  })
}
const curves = computed(() => reflections(props.result))
const before = computed(() => reflections(props.baseline))
const frequencies = computed(() => curves.value[0]?.x ?? [])

/** The point that is read out; at first where the first port is matched best. */
const at = ref(0)
const best = computed(() => nearest(curves.value[0]?.gamma ?? [], { re: 0, im: 0 }))
watch(() => frequencies.value.length, () => (at.value = best.value), { immediate: true })

const path = (gamma: readonly Complex[]) => gamma.map(({ re, im }, k) => `${k ? 'L' : 'M'}${re.toFixed(4)} ${(-im).toFixed(4)}`).join('')
const read = computed(() => curves.value.map(({ expression, index, gamma, ohms }) => {
  const own = gamma[at.value] ?? { re: NaN, im: NaN }
  const z = ohms[at.value]
  return { expression, index, gamma: own, z, y: z && inverse(z) }
}))
const complex = (value: Complex | undefined, unit: string) =>
  value && Number.isFinite(value.re) ? `${engineering(value.re, unit, 3)} ${value.im < 0 ? '−' : '+'} j ${engineering(Math.abs(value.im), unit, 3)}` : '—'
const plain = (value: number) => (Number.isFinite(value) ? (value > 999 ? '> 999' : value.toPrecision(3)) : '∞')

function point(event: PointerEvent) {
  if (!event.buttons) return
  const box = (event.currentTarget as SVGElement).getBoundingClientRect()
  const to = { re: ((event.clientX - box.left) / box.width) * 2.3 - 1.15, im: 1.15 - ((event.clientY - box.top) / box.height) * 2.3 }
  const near = curves.value.map(({ gamma }) => nearest(gamma, to))
  const distance = (k: number) => Math.hypot((curves.value[k]?.gamma[near[k] ?? 0]?.re ?? NaN) - to.re, (curves.value[k]?.gamma[near[k] ?? 0]?.im ?? NaN) - to.im)
  const first = near.map((_, k) => k).sort((a, b) => distance(a) - distance(b))[0]
  if (first !== undefined) at.value = near[first] ?? 0
}
</script>

<template>
  <CardFrame :card="card" :computing="computing" :active="active" :enlarges="false" @hide="emit('hide')" @print="emit('print')" @activate="emit('activate')">
    <template #handle><slot name="handle" /></template>
    <template v-if="curves.length">
      <svg class="chart" viewBox="-1.15 -1.15 2.3 2.3" role="img" :aria-label="`${card.title}: reflections at ${curves.map(({ expression }) => expression).join(', ')}`" @pointerdown="point" @pointermove="point">
        <clipPath :id="`rim-${card.id}`"><circle r="1" /></clipPath>
        <g :clip-path="`url(#rim-${card.id})`" class="lines">
          <circle v-for="r in LINES" :key="r" :cx="resistanceCircle(r).x" cy="0" :r="resistanceCircle(r).radius" />
          <template v-for="x in LINES" :key="x">
            <circle cx="1" :cy="-reactanceCircle(x).y" :r="reactanceCircle(x).radius" />
            <circle cx="1" :cy="reactanceCircle(x).y" :r="reactanceCircle(x).radius" />
          </template>
          <path d="M-1 0H1" />
        </g>
        <circle r="1" class="rim" />
        <template v-for="x in LINES" :key="`label ${x}`">
          <text :x="2 * resistanceCircle(x).x - 1 + (1 - resistanceCircle(x).x - resistanceCircle(x).radius)" y="0.085" class="label">{{ x }}</text>
          <text :x="onRim(x).re * 1.08" :y="-onRim(x).im * 1.08" class="label rim-label">{{ x }}</text>
          <text :x="onRim(x).re * 1.08" :y="onRim(x).im * 1.08" class="label rim-label">−{{ x }}</text>
        </template>
        <path v-for="{ expression, index, gamma } in before" :key="`before ${expression}`" class="curve pale" :d="path(gamma)" :stroke="`var(${strokeOf(index).token})`" />
        <path v-for="{ expression, index, gamma } in curves" :key="expression" class="curve" :d="path(gamma)" :stroke="`var(${strokeOf(index).token})`" :stroke-dasharray="strokeOf(index).dash.join(' ')" />
        <circle v-for="{ expression, index, gamma } in read" :key="`at ${expression}`" :cx="gamma.re" :cy="-gamma.im" r="0.035" :fill="`var(${strokeOf(index).token})`" />
      </svg>
      <label class="slide"><span class="soft">at</span><input v-model.number="at" type="range" min="0" :max="frequencies.length - 1" :aria-label="`Frequency on ${card.title}`" :aria-valuetext="engineering(frequencies[at], 'Hz')"><b class="mono">{{ engineering(frequencies[at], 'Hz') }}</b></label>
      <div class="reads" tabindex="0" role="group" :aria-label="`Read out on ${card.title}`"><table class="read">
        <thead><tr><td /><th v-for="{ expression, index } in read" :key="expression" scope="col" class="number"><i :style="{ background: `var(${strokeOf(index).token})` }" />{{ expression }}</th></tr></thead>
        <tbody>
          <tr><th scope="row">Return loss</th><td v-for="{ expression, gamma } in read" :key="expression" class="number">{{ plain(returnLoss(gamma)) }} dB</td></tr>
          <tr><th scope="row" title="Voltage standing wave ratio">VSWR</th><td v-for="{ expression, gamma } in read" :key="expression" class="number">{{ plain(standingWave(gamma)) }}</td></tr>
          <tr><th scope="row">Impedance</th><td v-for="{ expression, z } in read" :key="expression" class="number">{{ complex(z, 'Ω') }}</td></tr>
          <tr><th scope="row">Admittance</th><td v-for="{ expression, y } in read" :key="expression" class="number">{{ complex(y, 'S') }}</td></tr>
          <tr><th scope="row" title="Reactance by resistance">Q</th><td v-for="{ expression, z } in read" :key="expression" class="number">{{ z ? plain(quality(z)) : '—' }}</td></tr>
        </tbody>
      </table></div>
    </template>
    <p v-else-if="!computing" class="soft">There is nothing to show yet.</p>
  </CardFrame>
</template>

<style scoped>
.reads {
  overflow-x: auto;
}

.chart {
  cursor: crosshair;
  display: block;
  margin: 0 auto;
  max-height: 300px;
  touch-action: none;
  width: 100%;
}

.lines {
  fill: none;
  stroke: var(--rule);
  stroke-width: 0.006;
}

.rim {
  fill: none;
  stroke: var(--ink-soft);
  stroke-width: 0.008;
}

.label {
  fill: var(--ink-soft);
  font-family: var(--mono);
  font-size: 0.075px;
  text-anchor: middle;
}

.rim-label {
  dominant-baseline: middle;
}

.curve {
  fill: none;
  stroke-linejoin: round;
  stroke-width: 2;
  vector-effect: non-scaling-stroke;
}

.pale {
  opacity: 0.4;
  stroke-width: 1;
}

.slide {
  align-items: center;
  display: flex;
  font-size: var(--size-small);
  gap: 8px;
}

.slide input {
  accent-color: var(--accent);
  flex: 1;
}

.read {
  border-collapse: collapse;
  font-size: 0.75rem;
  margin-top: 4px;
  width: 100%;
}

.read th {
  color: var(--ink-soft);
  font-weight: 400;
  text-align: left;
}

.read .number {
  text-align: right;
  white-space: nowrap;
}

.read i {
  border-radius: 50%;
  display: inline-block;
  height: 8px;
  margin-right: 5px;
  width: 8px;
}
</style>
