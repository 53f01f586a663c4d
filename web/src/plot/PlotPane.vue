<script setup lang="ts">
import { usePreferredScheme } from '@/components/usePreferredScheme'
import { engineering, tick } from '@/format/engineering'
import { computed, onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue'
import type { PlotPane, Shape } from './curves'
import { drawCurve, MANY } from './draw'
import { scaleOf, type Range, type Scale } from './scales'
import { strokeOf } from './strokes'

/** One pane: scales, lines at their ticks, and the curves on a canvas between them. */
const props = defineProps<{
  pane: PlotPane
  width: number
  height: number
  /** Whether room is left for a second scale: panes that share an axis lie under each other. */
  two: boolean
  /** Whether the axis below is written out; panes that share it write it once. */
  foot: boolean
  x: Range
  /** One range for each unit. */
  y: readonly Range[]
  logarithmic: readonly boolean[]
  shape: Shape
  marks?: readonly { name: string; at: number }[]
}>()

const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
/** The page's letters may be larger than usual, and the room for numbers with them. */
const letters = parseFloat(getComputedStyle(document.documentElement).fontSize) / 16 || 1
const area = computed(() => ({
  left: 50 * letters, right: props.width - (props.two ? 50 : 20) * letters, top: 20 * letters, bottom: props.height - (props.foot ? 36 : 8) * letters,
}))
const inner = computed(() => ({ width: Math.max(area.value.right - area.value.left, 10), height: Math.max(area.value.bottom - area.value.top, 10) }))
const xScale = computed(() => scaleOf(props.x, [0, inner.value.width], props.shape === 'axis' && props.pane.axis.logarithmic, 74 * letters))
const yScales = computed(() => props.y.map((range, k) => scaleOf(range, [inner.value.height, 0], props.logarithmic[k] ?? false, 28 * letters, props.pane.units[k])))
const left = computed(() => yScales.value[0] as Scale)
const right = computed(() => yScales.value[1])

/** Ticks that read differently: with more digits where they lie close together. */
function labels(scale: Scale, unit = ''): string[] {
  // Degrees and decibels take no prefix.
  if (unit === '°' || unit === 'dB') return scale.ticks.map((value) => String(Number(value.toPrecision(6))).replace('-', '−'))
  const short = scale.ticks.map(tick)
  return new Set(short).size === short.length ? short : scale.ticks.map((value) => engineering(value, '', 6))
}
const xLabels = computed(() => labels(xScale.value))
const yLabels = computed(() => yScales.value.map((scale, k) => labels(scale, props.pane.units[k])))
const axisTitle = computed(() => {
  if (props.shape !== 'axis') return `real${props.pane.units[0] ? ` / ${props.pane.units[0]}` : ''}`
  const { title, unit } = props.pane.axis
  return unit ? `${title} / ${unit}` : title
})
/** Circles of a polar plot, in pixels about the origin. */
const circles = computed(() => {
  if (props.shape !== 'polar') return []
  const unit = Math.abs(xScale.value.toPixel(1) - xScale.value.toPixel(0))
  return xScale.value.ticks.filter((value) => value > 0).map((value) => value * unit)
})
const minusOne = computed(() => (props.shape === 'axis' ? null : { x: xScale.value.toPixel(-1), y: left.value.toPixel(0) }))

const many = computed(() => props.pane.curves.reduce((sum, { x }) => sum + x.length, 0) > MANY)

/** The last whole picture, with the scales that it was drawn for: very many curves are moved as a picture first. */
let last: { picture: HTMLCanvasElement; x: Scale; y: Scale[] } | null = null
let settle = 0

/** By how many pixels a scale was moved; null where it was stretched too. */
function shift(before: Scale, now: Scale): number | null {
  const [a, b] = [now.toPixel(before.range[0]) - before.toPixel(before.range[0]), now.toPixel(before.range[1]) - before.toPixel(before.range[1])]
  return Math.abs(a - b) < 0.5 ? a : null
}

/** Move the last picture where only the ranges were moved; whether that was so. */
function moveLast(element: HTMLCanvasElement, context: CanvasRenderingContext2D): boolean {
  if (!many.value || !last || last.picture.width !== element.width || last.picture.height !== element.height) return false
  const dx = shift(last.x, xScale.value)
  const dy = last.y.map((before, k) => (yScales.value[k] ? shift(before, yScales.value[k] as Scale) : null))
  const [first] = dy
  if (dx === null || first == null || dy.some((each) => each !== first)) return false
  const ratio = element.width / inner.value.width
  context.setTransform(1, 0, 0, 1, 0, 0)
  context.clearRect(0, 0, element.width, element.height)
  context.drawImage(last.picture, Math.round(dx * ratio), Math.round(first * ratio))
  return true
}

const dark = usePreferredScheme()
function draw(change?: readonly unknown[], before?: readonly unknown[]) {
  const element = canvas.value
  const context = element?.getContext('2d')
  if (!element || !context) return
  clearTimeout(settle)
  const moved = change && before && change[0] === before[0] && change[3] === before[3]
  if (moved && moveLast(element, context)) {
    settle = window.setTimeout(() => drawWhole(element, context), SETTLE)
    return
  }
  drawWhole(element, context)
}

/** Milliseconds of rest after which moved curves are drawn anew. */
const SETTLE = 70

function drawWhole(element: HTMLCanvasElement, context: CanvasRenderingContext2D) {
  const ratio = Math.max(window.devicePixelRatio, 1)
  const { width, height } = inner.value
  element.width = Math.round(width * ratio)
  element.height = Math.round(height * ratio)
  context.scale(ratio, ratio)
  context.lineJoin = 'round'
  const style = getComputedStyle(element)
  const colours = new Map<string, string>()
  const colour = (token: string) => {
    const known = colours.get(token) ?? style.getPropertyValue(token).trim()
    colours.set(token, known)
    return known
  }
  for (const curve of [...props.pane.curves].sort((a, b) => Number(b.baseline) - Number(a.baseline))) {
    const scale = yScales.value[props.pane.units.indexOf(curve.unit)] ?? left.value
    drawCurve(context, curve, xScale.value, scale, colour(strokeOf(curve.index).token), many.value)
  }
  last = null
  if (many.value) {
    const picture = document.createElement('canvas')
    picture.width = element.width
    picture.height = element.height
    picture.getContext('2d')?.drawImage(element, 0, 0)
    last = { picture, x: xScale.value, y: yScales.value }
  }
}
onMounted(() => draw())
onBeforeUnmount(() => clearTimeout(settle))
watch([() => props.pane, xScale, yScales, dark], draw, { flush: 'post' })

defineExpose({ canvas, area, xScale, left })
</script>

<template>
  <div class="pane" :style="{ width: `${width}px`, height: `${height}px` }">
    <svg :width="width" :height="height" aria-hidden="true">
      <g :transform="`translate(${area.left} ${area.top})`">
        <path v-if="shape === 'axis'" class="minor" :d="xScale.minor.map((value) => `M${xScale.toPixel(value)} 0v${inner.height}`).join('')" />
        <template v-if="shape !== 'polar'">
          <path class="lines" :d="xScale.ticks.map((value) => `M${xScale.toPixel(value)} 0v${inner.height}`).join('')" />
          <path class="lines" :d="left.ticks.map((value) => `M0 ${left.toPixel(value)}h${inner.width}`).join('')" />
        </template>
        <g v-else :clip-path="`inset(0)`" class="lines">
          <circle v-for="radius in circles" :key="radius" :cx="xScale.toPixel(0)" :cy="left.toPixel(0)" :r="radius" />
          <path v-for="angle in 6" :key="angle" :d="`M${xScale.toPixel(0)} ${left.toPixel(0)}m${-3000 * Math.cos((angle * Math.PI) / 6)} ${-3000 * Math.sin((angle * Math.PI) / 6)}l${6000 * Math.cos((angle * Math.PI) / 6)} ${6000 * Math.sin((angle * Math.PI) / 6)}`" />
        </g>
        <path class="frame" :d="`M0 0v${inner.height}h${inner.width}${right ? 'V0' : ''}`" />
        <text v-for="(value, k) in left.ticks" :key="`l${value}`" class="tick" x="-6" :y="left.toPixel(value) + 4" text-anchor="end">{{ yLabels[0]?.[k] }}</text>
        <text class="unit" :x="-44 * letters" y="-8">{{ shape === 'axis' ? pane.units[0] || '1' : `imaginary${pane.units[0] ? ` / ${pane.units[0]}` : ''}` }}</text>
        <template v-if="right">
          <text v-for="(value, k) in right.ticks" :key="`r${value}`" class="tick" :x="inner.width + 6" :y="right.toPixel(value) + 4">{{ yLabels[1]?.[k] }}</text>
          <text class="unit" :x="inner.width + 44 * letters" y="-8" text-anchor="end">{{ pane.units[1] || '1' }}</text>
        </template>
        <template v-if="foot">
          <text v-for="(value, k) in xScale.ticks" :key="`x${value}`" class="tick" :x="xScale.toPixel(value)" :y="inner.height + 15 * letters" text-anchor="middle">{{ xLabels[k] }}</text>
          <text class="unit" :x="inner.width / 2" :y="inner.height + 31 * letters" text-anchor="middle">{{ axisTitle }}</text>
        </template>
        <path v-if="minusOne" class="minus-one" :d="`M${minusOne.x - 5} ${minusOne.y}h10m-5 -5v10`"><title>−1</title></path>
      </g>
    </svg>
    <canvas ref="canvas" :style="{ left: `${area.left}px`, top: `${area.top}px`, width: `${inner.width}px`, height: `${inner.height}px` }" />
    <svg class="over" :width="width" :height="height" aria-hidden="true">
      <g v-for="mark in marks ?? []" :key="mark.name" :transform="`translate(${area.left + xScale.toPixel(mark.at)} ${area.top})`">
        <template v-if="mark.at >= Math.min(...x) && mark.at <= Math.max(...x)">
          <path class="cursor" :d="`M0 0V${inner.height}`" />
          <text class="cursor-name" y="-3" text-anchor="middle">{{ mark.name }}</text>
        </template>
      </g>
      <slot :area="area" />
    </svg>
  </div>
</template>

<style scoped>
.pane {
  position: relative;
}

canvas,
.over {
  left: 0;
  pointer-events: none;
  position: absolute;
  top: 0;
}

.lines,
.minor {
  fill: none;
  stroke: var(--rule);
  stroke-width: 1;
}

.minor {
  opacity: 0.45;
}

.frame {
  fill: none;
  stroke: var(--ink-soft);
}

.tick {
  fill: var(--ink-soft);
  font-family: var(--mono);
  font-size: 0.6875rem;
}

.unit {
  fill: var(--ink-soft);
  font-size: 0.6875rem;
}

.cursor {
  stroke: var(--accent);
  stroke-dasharray: 4 2;
}

.cursor-name {
  fill: var(--accent);
  font-size: 11px;
  font-weight: 600;
}

.minus-one {
  stroke: var(--breaks);
  stroke-width: 1.5;
}
</style>
