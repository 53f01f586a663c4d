<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'
import type { PlotPane as Pane, Shape } from './curves'
import PlotPane from './PlotPane.vue'
import { extent, roomy, type Range } from './scales'

/** Panes on top of each other. Those that run along one axis share it. */
const props = defineProps<{
  panes: readonly Pane[]
  shape: Shape
  label: string
  /** What was zoomed to: ranges of axes by title, and of scales by pane and unit. */
  xRanges?: Readonly<Record<string, Range>>
  yRanges?: Readonly<Record<string, Range>>
  /** Scales that are logarithmic, by pane and unit. */
  logarithmic?: ReadonlySet<string>
  marks?: readonly { name: string; at: number; axis: string }[]
}>()

const root = useTemplateRef<HTMLDivElement>('root')
const size = ref({ width: 320, height: 200 })
const observer = new ResizeObserver(([entry]) => {
  if (entry) size.value = { width: Math.max(entry.contentRect.width, 120), height: Math.max(entry.contentRect.height, 60) }
})
onMounted(() => root.value && observer.observe(root.value))
onBeforeUnmount(() => observer.disconnect())

/** The room for an axis that is written out. */
const FOOT = 28 * (parseFloat(getComputedStyle(document.documentElement).fontSize) / 16 || 1)

/** The scale of a pane, by name: what a zoom of it is kept under. */
const scaleKey = (pane: number, unit: string) => `${pane} ${unit}`

const two = computed(() => props.shape === 'axis' && props.panes.some(({ units }) => units.length > 1))

const laid = computed(() => {
  const { panes, shape } = props
  const foot = (k: number) => panes[k]?.axis.title !== panes[k + 1]?.axis.title || shape !== 'axis'
  const feet = panes.filter((_, k) => foot(k)).length
  const each = (size.value.height - FOOT * feet) / Math.max(panes.length, 1)
  return panes.map((pane, k) => {
    const log = pane.units.map((unit) => props.logarithmic?.has(scaleKey(k, unit)) ?? false)
    const own = pane.units.map((unit) => pane.curves.filter((curve) => curve.unit === unit))
    const height = each + (foot(k) ? FOOT : 0)
    const xs = panes.filter(({ axis }) => axis.title === pane.axis.title).flatMap(({ curves }) => curves.map(({ x }) => x))
    let x = props.xRanges?.[pane.axis.title] ?? whole(extent(xs, shape === 'axis' && pane.axis.logarithmic))
    let y = pane.units.map((unit, u) => props.yRanges?.[scaleKey(k, unit)] ?? roomy(extent((own[u] ?? []).map((curve) => curve.y), log[u] ?? false), log[u] ?? false))
    if (shape !== 'axis') ({ x, y } = square(x, y, size.value.width - 60, height - 56))
    return { pane, x, y, log, foot: foot(k), height, marks: (props.marks ?? []).filter((mark) => mark.axis === pane.axis.title) }
  })
})

/** The axis of what is computed is shown without room around it. */
const whole = (range: Range | null): Range => (range && range[0] < range[1] ? range : roomy(range, false))

/** Ranges of real and imaginary parts with one scale for both, with the origin in view. */
function square(x: Range, y: readonly Range[], width: number, height: number): { x: Range; y: Range[] } {
  const [low, high] = y[0] ?? [-1, 1]
  const each = Math.max((Math.max(x[1], 0) - Math.min(x[0], 0)) / width, (Math.max(high, 0) - Math.min(low, 0)) / height) * 1.1 || 1
  const [mx, my] = [(Math.max(x[1], 0) + Math.min(x[0], 0)) / 2, (Math.max(high, 0) + Math.min(low, 0)) / 2]
  return { x: [mx - (each * width) / 2, mx + (each * width) / 2], y: y.map(() => [my - (each * height) / 2, my + (each * height) / 2] as const) }
}

const paneElements = useTemplateRef<InstanceType<typeof PlotPane>[]>('paneElements')

/** Which pane a point of the window lies in, and the values there. */
function at(client: { x: number; y: number }) {
  const box = root.value?.getBoundingClientRect()
  if (!box) return null
  let top = box.top
  for (const [k, { pane, height, x, y, log }] of laid.value.entries()) {
    const element = paneElements.value?.[k]
    if (element && client.y >= top && client.y < top + height) {
      const { area, xScale, left } = element
      return {
        pane: k, axis: pane.axis, xValue: xScale.toValue(client.x - box.left - area.left), yValue: left.toValue(client.y - top - area.top),
        xRange: x, yRanges: y, log, width: area.right - area.left, height: area.bottom - area.top, units: pane.units,
        px: client.x - box.left, py: client.y - box.top, top: top - box.top, area,
      }
    }
    top += height
  }
  return null
}
export type Spot = NonNullable<ReturnType<typeof at>>

defineExpose({ at, scaleKey, laid, root })
</script>

<template>
  <div ref="root" class="stack" role="img" :aria-label="label">
    <PlotPane
      v-for="({ pane, x, y, log, foot, height, marks: own }, k) in laid" :key="k" ref="paneElements" :pane="pane" :x="x" :y="y" :logarithmic="log"
      :width="size.width" :height="height" :two="two" :foot="foot" :shape="shape" :marks="own"
    />
  </div>
</template>

<style scoped>
.stack {
  height: 100%;
  min-height: 0;
  overflow: hidden;
}
</style>
