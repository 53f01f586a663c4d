<script setup lang="ts">
import type { Envelope } from '@/api/client'
import { usePreferredScheme } from '@/components/usePreferredScheme'
import { engineering, tick } from '@/format/engineering'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import { axisAlong, axisStyle, chartTokens, tooltipStyle } from './setup'

/** A curve as drawn, and the bands within which it lies in the units that are built: the darker the more of them. */
const props = defineProps<{ envelope: Envelope }>()

const dark = usePreferredScheme()
const option = computed(() => {
  void dark.value
  const tokens = chartTokens()
  const axis = axisStyle(tokens)
  const { places, bands, nominal, unit, of, axis_unit: axisUnit, logarithmic } = props.envelope
  const known = [...nominal, ...bands.flatMap(({ values }) => values)].filter((value) => value != null)
  const [low, high] = [Math.min(...known), Math.max(...known)]
  const margin = 0.05 * (high - low) || Math.abs(high) * 0.01 || 1
  const line = { type: 'line', symbol: 'none', silent: true, lineStyle: { width: 0 } }
  // From the outermost pair of borders inwards; what lies between two is stacked upon the lower one.
  const filled = Array.from({ length: Math.floor(bands.length / 2) }, (_, k) => {
    const [lower, upper] = [bands[k]?.values ?? [], bands[bands.length - 1 - k]?.values ?? []]
    const gap = upper.map((value, at) => (value == null ? null : value - (lower[at] ?? value)))
    const stack = { ...line, stack: `band ${k}`, stackStrategy: 'all' }
    return [
      { ...stack, data: places.map((place, at) => [place, lower[at]]) },
      { ...stack, data: places.map((place, at) => [place, gap[at]]), areaStyle: { color: tokens.traces[0], opacity: 0.13 + 0.05 * k, origin: 'start' } },
    ]
  }).flat()
  return {
    animation: false,
    textStyle: { fontFamily: tokens.font },
    grid: { left: 72, right: 24, top: 34, bottom: 46 },
    tooltip: {
      ...tooltipStyle(tokens), trigger: 'axis',
      formatter: ([point]: { dataIndex: number }[]) =>
        point ? [`${engineering(places[point.dataIndex], axisUnit)}`, `as drawn ${engineering(nominal[point.dataIndex], unit)}`, ...[...bands].reverse().map(({ percent, values }) => `${percent} % ${engineering(values[point.dataIndex], unit)}`)].join('<br>') : '',
    },
    xAxis: { ...axisAlong({ title: props.envelope.axis, unit: axisUnit, values: places, logarithmic }, tokens), nameLocation: 'middle', nameGap: 28 },
    yAxis: { type: 'value', min: low - margin, max: high + margin, name: unit ? `${of} / ${unit}` : of, ...axis, axisLine: { ...axis.axisLine, onZero: false }, nameTextStyle: { ...axis.nameTextStyle, align: 'left' }, axisLabel: { ...axis.axisLabel, formatter: tick, showMinLabel: false, showMaxLabel: false } },
    series: [...filled, { type: 'line', symbol: 'none', lineStyle: { color: tokens.text, width: 1.2 }, itemStyle: { color: tokens.text }, data: places.map((place, at) => [place, nominal[at]]) }],
  }
})
</script>

<template>
  <VChart :option="option" autoresize role="img" :aria-label="`${envelope.of} as drawn and in ${envelope.rows} units`" />
</template>
