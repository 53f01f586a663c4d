<script setup lang="ts">
import type { BenchCard } from '@/api/client'
import { usePreferredScheme } from '@/components/usePreferredScheme'
import { engineering, tick } from '@/format/engineering'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import { axisStyle, chartTokens, tooltipStyle } from './setup'

/** The curves of a card over its axes; each curve has a colour and a dash pattern of its own. */
const props = defineProps<{ card: BenchCard }>()

const DASHES = ['solid', [7, 4], [2, 3], [9, 3, 2, 3], [4, 4], [1, 2]] as const

type Axis = NonNullable<BenchCard['x']>

/** A number as the axis holds it: logarithmic axes hold exponents, so that their ticks are whole decades. */
const held = (axis: Axis, value: number) => (axis.logarithmic ? Math.log10(value) : value)
const seen = (axis: Axis, value: number) => (axis.logarithmic ? 10 ** value : value)

/** The range of an axis: whole decades, or wide enough that neighbouring ticks read differently. */
function range(axis: Axis, values: readonly number[]): Record<string, number | boolean> {
  const numbers = values.filter((value) => Number.isFinite(held(axis, value))).map((value) => held(axis, value))
  if (!numbers.length) return {}
  const [low, high] = [Math.min(...numbers), Math.max(...numbers)]
  if (axis.logarithmic) {
    const [min, max] = [Math.floor(low + 1e-9), Math.ceil(high - 1e-9)]
    const decades = Math.max(max - min, 1)
    return { min, max: min + decades, interval: Math.ceil(decades / 6) }
  }
  // What lies below zero by rounding does not need an axis there.
  if (low <= 0 && low > -1e-3 * high) return { min: 0 }
  const least = 0.02 * Math.max(Math.abs(low), Math.abs(high))
  if (high - low >= least) return { scale: true }
  const step = 10 ** Math.floor(Math.log10(least || 1))
  const middle = (low + high) / 2
  return { min: Math.floor((middle - least) / step) * step, max: Math.ceil((middle + least) / step) * step, scale: true }
}

const title = (axis: Axis) => (axis.unit ? `${axis.title} / ${axis.unit}` : axis.title)

const dark = usePreferredScheme()
const option = computed(() => {
  void dark.value
  const { x, y, second, curves = [] } = props.card
  if (!x || !y) return {}
  const tokens = chartTokens()
  const style = axisStyle(tokens)
  const values = (which: boolean) => curves.filter((curve) => Boolean(curve.second) === which).flatMap((curve) => curve.y)
  const axis = (of: Axis, numbers: readonly number[]) => ({
    ...style,
    type: 'value',
    ...range(of, numbers),
    axisLine: { ...style.axisLine, onZero: false },
    axisLabel: { ...style.axisLabel, formatter: (value: number) => tick(Number(seen(of, value).toPrecision(6))), hideOverlap: true },
    name: title(of),
  })
  const side = (of: Axis, which: boolean) => ({
    ...axis(of, values(which)),
    nameTextStyle: { ...style.nameTextStyle, align: which ? 'right' : 'left', padding: which ? [0, -44, 0, 0] : [0, 0, 0, -46] },
    ...(which ? { splitLine: { show: false } } : {}),
  })
  // A legend that does not fit into one line takes two.
  const wide = curves.reduce((sum, curve) => sum + curve.title.length + 8, 0) > 58
  return {
    animation: false,
    textStyle: { fontFamily: tokens.font },
    grid: { left: 58, right: second ? 58 : 18, top: curves.length > 1 ? (wide ? 64 : 50) : 30, bottom: 40 },
    legend: curves.length > 1
      ? { top: 0, left: 'center', itemWidth: 34, itemHeight: 8, itemStyle: { opacity: 0 }, textStyle: { color: tokens.text, fontSize: 11 } }
      : undefined,
    tooltip: {
      trigger: 'axis',
      ...tooltipStyle(tokens),
      formatter: (points: { seriesIndex: number; data: [number, number] }[]) =>
        [
          engineering(seen(x, points[0]?.data[0] ?? 0), x.unit),
          ...points.map(({ seriesIndex, data }) => {
            const curve = curves[seriesIndex]
            const of = curve?.second && second ? second : y
            return `${curve?.title}: ${engineering(seen(of, data[1]), of.unit)}`
          }),
        ].join('<br>'),
    },
    xAxis: { ...axis(x, curves.flatMap((curve) => curve.x)), nameLocation: 'middle', nameGap: 26 },
    yAxis: second ? [side(y, false), side(second, true)] : [side(y, false)],
    series: curves.map((curve, k) => ({
      name: curve.title, type: 'line', symbol: 'none', yAxisIndex: curve.second ? 1 : 0,
      data: curve.x.flatMap((value, n) => {
        const point = [held(x, value), held(curve.second && second ? second : y, curve.y[n] ?? NaN)]
        return point.every(Number.isFinite) ? [point] : []
      }),
      lineStyle: { width: 1.8, color: tokens.traces[k % tokens.traces.length], type: DASHES[k % DASHES.length] },
      itemStyle: { color: tokens.traces[k % tokens.traces.length] },
    })),
  }
})
</script>

<template>
  <VChart v-if="card.x" :option="option" autoresize role="img" :aria-label="card.title" />
</template>
