<script setup lang="ts">
import type { Board, Check, CheckCard, CheckView, Circuit, CurveView, Vocabulary } from '@/api/client'
import { fetchTrial, useTrial, useVocabulary } from '@/api/trials'
import { withCard, withCards } from '@/cards/cardEdits'
import { freeMeasurementId, withCheck } from '@/experiments/checkEdits'
import { useKinds } from '@/experiments/useKinds'
import { engineering } from '@/format/engineering'
import { fileName, pngOf, saveBlob, saveText } from '@/format/files'
import { densityScales, panesOf, planeOf, plotCurve, type PlotAxis, type PlotCurve } from '@/plot/curves'
import PlotStack, { type Spot } from '@/plot/PlotStack.vue'
import type { Change } from '@/stores/useEditing'
import { mdiClose } from '@mdi/js'
import { computed, nextTick, onMounted, ref, shallowRef, useTemplateRef, watch } from 'vue'
import CurveList from './CurveList.vue'
import CursorPanel from './CursorPanel.vue'
import ExpressionField from './ExpressionField.vue'
import { crossing, extreme, halfPower, neighbour, valueAt } from './finding'
import { svgOf, tableOf } from './picture'
import { bare } from './shownAs'
import { useCursors, type CursorName } from './useCursors'
import { useZoom } from './useZoom'

/** A card at full size: cursors, zoom, panes, expressions, comparisons, measurements, and the way out of the program. */
const props = defineProps<{
  boardId: string
  board: Board
  circuit: Circuit
  check: Check
  card: CheckCard
  shownCards: readonly CheckCard[]
  result: CheckView | undefined
  computing: boolean
  edit: (change: Change, what: string) => Promise<void>
}>()
const emit = defineEmits<{ close: []; open: [measurement: string] }>()

const POINTS = 20_000
const root = useTemplateRef<HTMLElement>('root')
const stack = useTemplateRef<InstanceType<typeof PlotStack>>('stack')
const adder = useTemplateRef<InstanceType<typeof ExpressionField>>('adder')
onMounted(() => root.value?.focus())

const trouble = ref('')
async function safely(change: Change, what: string) {
  trouble.value = ''
  await props.edit(change, what).catch((error: unknown) => (trouble.value = error instanceof Error ? error.message : String(error)))
}
const changeCard = (change: Partial<CheckCard>, what: string) => safely((board) => withCards(board, props.check.id, (cards) => withCard(cards, props.card.id, change), props.shownCards), `${props.card.title}: ${what}`)

// What is drawn: the card's curves with all their points, baselines, and the same of other checks.

const asked = computed(() => ({ expressions: props.card.curves.map(({ expression }) => expression), points: POINTS }))
const full = useTrial(() => props.boardId, () => props.check.id, asked)
const curveView = (expression: string) => full.data.value?.curves.find((curve) => curve.expression === expression) ?? props.result?.curves.find((curve) => curve.expression === expression)

interface Baseline {
  name: string
  curves: CurveView[]
}
const baselines = shallowRef<Baseline[]>([])
function keepBaseline() {
  const curves = props.card.curves.flatMap(({ expression }) => curveView(expression) ?? [])
  baselines.value = [...baselines.value, { name: `baseline ${baselines.value.length + 1}`, curves }]
}
const others = computed(() => props.circuit.checks.filter(({ id, analysis }) => id !== props.check.id && analysis.kind === props.check.analysis.kind))
const overlaid = ref<string[]>([])
const overlays = shallowRef<Baseline[]>([])
watch([overlaid, () => asked.value.expressions.join('\n'), () => props.result?.key], async () => {
  const found = await Promise.all(
    overlaid.value.map(async (id): Promise<Baseline> => {
      const view = await fetchTrial(props.boardId, id, { expressions: asked.value.expressions, points: POINTS })
      return { name: props.circuit.checks.find((check) => check.id === id)?.title ?? id, curves: view.curves.filter(({ expression }) => asked.value.expressions.includes(expression)) }
    }),
  ).catch((error: unknown) => ((trouble.value = error instanceof Error ? error.message : String(error)), []))
  overlays.value = found
})

const shape = computed(() => planeOf(props.card.shape))
/** Axes that are shown the other way: a linear frequency, a logarithmic time. */
const otherwise = ref<ReadonlySet<string>>(new Set())
function toggleAxis(title: string) {
  const next = new Set(otherwise.value)
  if (!next.delete(title)) next.add(title)
  otherwise.value = next
  zoom.whole()
}
const drawn = computed(() => {
  const found: { curve: PlotCurve; axis: PlotAxis }[] = []
  const add = (view: CurveView | undefined, title: string, pane: number, index: number, behind: boolean) => {
    const curve = view && plotCurve(view, title, pane, index, shape.value, behind)
    if (curve && view.axis) found.push({ curve, axis: { ...view.axis, logarithmic: view.axis.logarithmic !== otherwise.value.has(view.axis.title) } })
  }
  for (const [index, { expression, pane }] of props.card.curves.entries()) {
    add(curveView(expression), expression, pane, index, false)
    for (const { name, curves } of [...baselines.value, ...overlays.value]) {
      const index_ = overlays.value.some((overlay) => overlay.name === name) ? index + 3 : index
      add(curves.find((curve) => curve.expression === expression), `${name}: ${expression}`, pane, index_, !overlays.value.some((overlay) => overlay.name === name))
    }
  }
  return found
})
const panes = computed(() => panesOf(drawn.value))
const curves = computed(() => drawn.value.map(({ curve }) => curve))
const active = ref(0)
const activeCurve = computed(() => curves.value.find(({ key }) => key === props.card.curves[active.value]?.expression) ?? curves.value[0])
const activeAxis = computed(() => drawn.value.find(({ curve }) => curve === activeCurve.value)?.axis)

// Cursors and places.

const cursors = useCursors(curves)
const marks = computed(() => (['A', 'B'] as const).flatMap((name) => (cursors.at.value[name] === null ? [] : [{ name, at: cursors.at.value[name] as number, axis: activeAxis.value?.title ?? '' }])))
const moving = ref<CursorName>('A')
const level = ref('')
const seen = computed(() => {
  const laid = stack.value?.laid.find(({ pane }) => pane.axis.title === activeAxis.value?.title)
  return { low: Math.min(...(laid?.x ?? [-Infinity, Infinity])), high: Math.max(...(laid?.x ?? [-Infinity, Infinity])) }
})

function jump(place: number | null, none: string) {
  trouble.value = place === null ? none : ''
  if (place !== null) cursors.put(moving.value, place)
}
function toExtreme(greatest: boolean) {
  if (activeCurve.value) jump(extreme(activeCurve.value, seen.value.low, seen.value.high, greatest), 'There is no value in what is seen.')
}
function toLevel(wanted: number | null, way: 1 | -1) {
  const curve = activeCurve.value
  if (!curve || wanted === null || !Number.isFinite(wanted)) return void (trouble.value = 'Write a level as a number, such as 0.5 or 2e-3.')
  const from = cursors.at.value[moving.value] ?? (way > 0 ? seen.value.low : seen.value.high)
  jump(crossing(curve, wanted, from, way), `${curve.title} does not cross ${engineering(wanted, curve.unit)} ${way > 0 ? 'after' : 'before'} the cursor.`)
}
function toHalfPower() {
  const curve = activeCurve.value
  const wanted = curve && halfPower(curve, seen.value.low, seen.value.high)
  if (!curve || wanted == null) return
  const top = extreme(curve, seen.value.low, seen.value.high, true) ?? 0
  const here = cursors.at.value[moving.value]
  const from = here === null || Math.abs(valueAt(curve, here) - wanted) > 1e-6 * Math.abs(wanted) ? top : here
  const place = crossing(curve, wanted, from, 1) ?? crossing(curve, wanted, from, -1)
  jump(place, `${curve.title} does not fall by 3 dB within its range.`)
}
function nudge(by: number, name: CursorName) {
  const curve = activeCurve.value
  if (!curve) return
  const here = cursors.at.value[name] ?? curve.x[curve.x.length >> 1] ?? 0
  cursors.put(name, neighbour(curve, here, by))
}

// Zooming.

const zoom = useZoom()
const box = ref<{ left: number; top: number; width: number; height: number } | null>(null)
let drag: { spot: Spot; from: { x: number; y: number }; pan: boolean; start: typeof zoom.view.value; moved: boolean } | null = null
const scaleKey = (spot: Spot) => (unit: string) => stack.value?.scaleKey(spot.pane, unit) ?? ''

function onDown(event: PointerEvent) {
  const spot = stack.value?.at({ x: event.clientX, y: event.clientY })
  if (!spot) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  root.value?.focus({ preventScroll: true })
  drag = { spot, from: { x: event.clientX, y: event.clientY }, pan: event.button !== 0 || event.altKey, start: zoom.view.value, moved: false }
}
let frame = 0
let latest: PointerEvent | null = null
function onMove(event: PointerEvent) {
  latest = event
  frame ||= requestAnimationFrame(() => {
    frame = 0
    if (latest && drag) follow(latest)
  })
}
function follow(event: PointerEvent) {
  if (!drag) return
  const { spot, from } = drag
  const by = { x: event.clientX - from.x, y: event.clientY - from.y }
  if (!drag.moved && Math.hypot(by.x, by.y) < 4) return
  if (drag.pan) zoom.pan(spot, by.x / spot.width, by.y / spot.height, scaleKey(spot), drag.start, !drag.moved)
  else box.value = { left: spot.px + Math.min(by.x, 0), top: spot.py + Math.min(by.y, 0), width: Math.abs(by.x), height: Math.abs(by.y) }
  drag.moved = true
}
function onUp(event: PointerEvent) {
  const now = drag
  drag = null
  box.value = null
  if (!now) return
  const { spot } = now
  if (!now.moved) {
    if (shape.value === 'axis') {
      moving.value = event.shiftKey ? 'B' : 'A'
      cursors.put(moving.value, spot.xValue)
    }
    return
  }
  if (now.pan) return
  const share = (px: number, py: number) => ({ x: clamp((px - spot.area.left) / spot.width), y: clamp((py - spot.top - spot.area.top) / spot.height) })
  const by = { x: event.clientX - now.from.x, y: event.clientY - now.from.y }
  if (Math.abs(by.x) > 5 && Math.abs(by.y) > 5) zoom.box(spot, share(spot.px, spot.py), share(spot.px + by.x, spot.py + by.y), scaleKey(spot))
}
const clamp = (share: number) => Math.min(Math.max(share, 0), 1)
function onWheel(event: WheelEvent) {
  const spot = stack.value?.at({ x: event.clientX, y: event.clientY })
  if (spot) zoom.wheel(spot, Math.exp((event.deltaY || event.deltaX) / 500), event.shiftKey, scaleKey(spot))
}
function zoomAtCursor(factor: number) {
  const element = stack.value?.root
  const curve = activeCurve.value
  if (!element || !curve) return
  const bounds = element.getBoundingClientRect()
  const spot = stack.value?.at({ x: bounds.left + bounds.width / 2, y: bounds.top + 40 })
  if (!spot) return
  const about = cursors.at.value.A
  zoom.wheel(about === null ? spot : { ...spot, xValue: about }, factor, false, scaleKey(spot))
}

// Panes and curves.

/** Scales that are shown the other way than usual. */
const turned = ref<ReadonlySet<string>>(new Set())
const logarithmic = computed((): ReadonlySet<string> => {
  const usual = densityScales(panes.value)
  return new Set([...usual, ...turned.value].filter((key) => usual.has(key) !== turned.value.has(key)))
})
function toggleLog(pane: number, unit: string) {
  const key = stack.value?.scaleKey(pane, unit) ?? ''
  const next = new Set(turned.value)
  if (!next.delete(key)) next.add(key)
  turned.value = next
}
const setCurve = (k: number, change: Partial<CheckCard['curves'][number]>, what: string) =>
  changeCard({ curves: props.card.curves.map((curve, n) => (n === k ? { ...curve, ...change } : curve)) }, what)
const addCurve = async (expression: string) => {
  if (props.card.curves.some((curve) => curve.expression === expression)) return void (trouble.value = `${expression} is shown already.`)
  await changeCard({ curves: [...props.card.curves, { expression, pane: props.card.curves.at(-1)?.pane ?? 0 }] }, `${expression} added`)
  adder.value?.clear()
}
const dropCurve = (k: number) => changeCard({ curves: props.card.curves.filter((_, n) => n !== k) }, 'curve taken off')

async function setShape(next: CheckCard['shape']) {
  zoom.whole()
  // The complex plane shows phasors, not their decibels.
  const curves = next === 'axis' ? props.card.curves : props.card.curves.map((curve) => ({ ...curve, expression: bare(curve.expression) })).filter(({ expression }, k, all) => all.findIndex((each) => each.expression === expression) === k)
  await changeCard({ shape: next, curves }, next)
}

// Measurements.

const vocabulary = useVocabulary()
const { of } = useKinds()
/** What a measurement takes of the cursor that is moved: its place, or the curve's level there. */
const takesOf = (entry: Vocabulary['measurements'][number]) => ['place', 'level'].find((name) => name in ((entry.settings as { properties?: object }).properties ?? {}))
const measurements = computed((): Vocabulary['measurements'] => (vocabulary.data.value?.measurements ?? []).filter(({ takes }) => of(props.check.analysis.kind)?.gives.includes(takes)))
async function measure(key: string) {
  const curve = activeCurve.value
  const entry = measurements.value.find((each) => each.key === key)
  if (!curve || !entry) return
  const expression = entry.takes === 'response' ? bare(curve.title) : curve.title
  const place = cursors.at.value[moving.value]
  const takes = takesOf(entry)
  const at = takes === 'place' ? place : takes && (place === null ? Number(level.value || NaN) : valueAt(curve, place))
  if (takes && (typeof at !== 'number' || !Number.isFinite(at))) return void (trouble.value = `${entry.title} needs a ${takes}: put a cursor there first.`)
  const id = freeMeasurementId(props.check, key)
  await safely((board) => withCheck(board, props.check.id, (check) => ({
    ...check, measurements: [...check.measurements, { id, key, of: expression, settings: takes ? { [takes]: String(Number((at as number).toPrecision(9))) } : {} }],
  })), `${entry.title} of ${expression} measured`)
}

// Out of the program.

const name = computed(() => fileName(`${props.circuit.title} ${props.card.title}`))
const picture = () => svgOf(`${props.circuit.title}: ${props.card.title}`, (stack.value?.laid ?? []).map(({ pane, x, y, log }) => ({ pane, x, y, log })), shape.value)
async function take(what: string) {
  trouble.value = ''
  try {
    if (what === 'csv') saveText(`${name.value}.csv`, tableOf(panes.value), 'text/csv')
    else if (what === 'svg') saveText(`${name.value}.svg`, picture(), 'image/svg+xml')
    else if (what === 'png') saveBlob(`${name.value}.png`, await pngOf(picture()))
    else if (what === 'numbers') await navigator.clipboard.writeText(tableOf(panes.value, '\t'))
    else await navigator.clipboard.write([new ClipboardItem({ 'image/png': pngOf(picture()) })])
  } catch (error) {
    trouble.value = `It could not be handed over: ${error instanceof Error ? error.message : error}`
  }
}
const OUT = [['csv', 'Numbers as CSV'], ['png', 'Picture as PNG'], ['svg', 'Picture as SVG'], ['numbers', 'Copy the numbers'], ['picture', 'Copy the picture']] as const

function onKey(event: KeyboardEvent) {
  if ((event.target as HTMLElement).closest('input, select, textarea') || event.altKey) return
  const by = event.ctrlKey || event.metaKey ? 10 : 1
  const key = event.key
  if (key === 'ArrowLeft' || key === 'ArrowRight') nudge(key === 'ArrowLeft' ? -by : by, event.shiftKey ? 'B' : 'A')
  else if (event.ctrlKey || event.metaKey) return
  else if (key === 'ArrowDown' || key === 'ArrowUp') active.value = (active.value + (key === 'ArrowDown' ? 1 : -1) + props.card.curves.length) % Math.max(props.card.curves.length, 1)
  else if (key === 'x') toExtreme(true)
  else if (key === 'n') toExtreme(false)
  else if (key === 'c') toLevel(level.value.trim() ? Number(level.value) : 0, 1)
  else if (key === 'd') toHalfPower()
  else if (key === 'e') void nextTick(() => adder.value?.focus())
  else if (key === '+' || key === '=') zoomAtCursor(0.7)
  else if (key === '-') zoomAtCursor(1 / 0.7)
  else if (key === 'Home') zoom.whole()
  else if (key === 'Backspace') zoom.back()
  else if (key === 'Escape') emit('close')
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <section ref="root" class="evidence" tabindex="-1" :aria-label="`${card.title} at full size`" @keydown="onKey">
    <header>
      <h2>{{ card.title }}</h2>
      <span class="soft">{{ circuit.title }}, {{ check.title }}</span>
      <span v-if="computing || full.isFetching.value" class="soft" role="status">computing</span>
      <span class="gap" />
      <div class="shapes" role="group" aria-label="Drawn over">
        <button v-for="[each, title] in [['axis', 'over the axis'], ['nyquist', 'Nyquist'], ['polar', 'polar']] as const" :key="each" type="button" :aria-pressed="shape === each" @click="setShape(each)">{{ title }}</button>
      </div>
      <v-btn size="small" variant="text" :disabled="!zoom.isZoomed.value" title="Show everything (Home)" @click="zoom.whole()">Whole</v-btn>
      <v-btn size="small" variant="text" :disabled="!zoom.past.value.length" title="The zoom before this one (Backspace)" @click="zoom.back()">Zoom back</v-btn>
      <v-menu>
        <template #activator="{ props: menu }"><v-btn size="small" variant="text" v-bind="menu">Take it out</v-btn></template>
        <v-list density="compact"><v-list-item v-for="[what, title] in OUT" :key="what" :title="title" @click="take(what)" /></v-list>
      </v-menu>
      <v-btn :icon="mdiClose" size="small" variant="text" title="Back to the sheet (Esc)" aria-label="Back to the sheet" @click="emit('close')" />
    </header>
    <div class="plot" :class="{ stale: computing }" @pointerdown="onDown" @pointermove="onMove" @pointerup="onUp" @wheel.prevent="onWheel" @dblclick="zoom.whole()" @contextmenu.prevent>
      <PlotStack ref="stack" :panes="panes" :shape="shape" :label="`${card.title}: ${card.curves.map(({ expression }) => expression).join(', ')}`" :x-ranges="zoom.view.value.x" :y-ranges="zoom.view.value.y" :logarithmic="logarithmic" :marks="marks" />
      <div v-if="box" class="zoom-box" :style="{ left: `${box.left}px`, top: `${box.top}px`, width: `${box.width}px`, height: `${box.height}px` }" />
      <p v-if="!panes.length" class="soft empty">Nothing can be drawn yet. Write an expression on the right, such as <b class="mono">v(out)</b>.</p>
    </div>
    <aside aria-label="Curves, cursors and measurements">
      <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
      <h3>Curves</h3>
      <CurveList v-model:active="active" :board-id="boardId" :circuit="circuit" :check="check" :curves="card.curves" @change="setCurve" @drop="dropCurve" />
      <ExpressionField ref="adder" :board-id="boardId" :circuit="circuit" :check="check" expression="" label="Add an expression" placeholder="add: db(v(out)/v(in)), i(R1.2) … (E)" @set="addCurve" />
      <div v-if="shape === 'axis'" class="scales">
        <label v-for="axis in new Map(panes.map((pane) => [pane.axis.title, pane.axis])).values()" :key="axis.title"><input type="checkbox" :checked="axis.logarithmic" @change="toggleAxis(axis.title)"> log {{ axis.title }}</label>
        <template v-for="(pane, k) in panes" :key="k">
          <label v-for="unit in pane.units.filter((each) => each !== 'dB' && each !== '°')" :key="unit"><input type="checkbox" :checked="logarithmic.has(`${k} ${unit}`)" @change="toggleLog(k, unit)"> log {{ unit || '1' }}{{ panes.length > 1 ? `, pane ${k + 1}` : '' }}</label>
        </template>
      </div>
      <h3>Cursors</h3>
      <CursorPanel
        v-model:moving="moving" v-model:level="level" :axis="activeAxis" :curves="curves" :cursors="cursors"
        @extreme="toExtreme" @half-power="toHalfPower" @level="(way) => toLevel(Number(level || 0), way)"
      />
      <label class="measure">Make this a measurement
        <select value="" aria-label="Make this a measurement" @change="measure(($event.target as HTMLSelectElement).value), (($event.target as HTMLSelectElement).value = '')">
          <option value="" disabled>of {{ activeCurve?.title ?? 'a curve' }} …</option>
          <option v-for="entry in measurements" :key="entry.key" :value="entry.key">{{ entry.title }}{{ { place: ` at ${moving}`, level: ` of the level at ${moving}` }[takesOf(entry) ?? ''] }}</option>
        </select>
      </label>
      <table v-if="result?.measured.length" class="ruled"><tbody><tr v-for="measured in result.measured" :key="measured.id"><td><button type="button" title="Change it, or hold a limit on it" @click="emit('open', measured.id)">{{ measured.title }}</button></td><td class="number">{{ engineering(measured.value, measured.unit) }}</td></tr></tbody></table>
      <h3>Compare</h3>
      <div class="compare">
        <v-btn size="x-small" @click="keepBaseline">Keep as baseline</v-btn>
        <v-btn v-if="baselines.length" size="x-small" variant="text" @click="baselines = []">Drop {{ baselines.length }}</v-btn>
        <label v-for="other in others" :key="other.id"><input v-model="overlaid" type="checkbox" :value="other.id"> {{ other.title }}</label>
      </div>
    </aside>
  </section>
</template>

<style scoped src="./small.css"></style>
<style scoped>
.evidence {
  background: var(--paper);
  display: grid;
  gap: 6px 12px;
  grid-template-columns: minmax(0, 1fr) 19.75rem;
  grid-template-rows: auto minmax(0, 1fr);
  inset: 0;
  outline: none;
  position: absolute;
  z-index: 8;
}

header {
  align-items: baseline;
  border-bottom: 1px solid var(--accent);
  display: flex;
  gap: 8px;
  grid-column: 1 / -1;
}

.gap {
  flex: 1;
}

.shapes button {
  border-bottom: 2px solid transparent;
  color: var(--ink-soft);
  font-size: 0.8125rem;
  padding: 2px 6px;
}

.shapes button[aria-pressed='true'] {
  border-bottom-color: var(--accent);
  color: var(--ink-text);
}

.plot {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  cursor: crosshair;
  min-height: 0;
  position: relative;
  touch-action: none;
  user-select: none;
}

.stale {
  opacity: 0.45;
}

.zoom-box {
  background: color-mix(in srgb, var(--accent) 10%, transparent);
  border: 1px dashed var(--accent);
  pointer-events: none;
  position: absolute;
}

.empty {
  left: 30%;
  position: absolute;
  top: 40%;
}

aside {
  display: flex;
  flex-direction: column;
  gap: 4px;
  min-height: 0;
  overflow: auto;
  padding-right: 2px;
}

h3 {
  border-bottom: 1px solid var(--rule);
  font-size: 0.8125rem;
  font-weight: 600;
  margin-top: 6px;
}

.scales,
.compare {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  font-size: 0.75rem;
  gap: 3px 8px;
}

.measure {
  display: grid;
  font-size: 0.75rem;
  gap: 2px;
}

.wrong {
  color: var(--breaks);
}
</style>
