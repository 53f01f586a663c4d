<script setup lang="ts">
import type { StudyColumn, StudyPlaces } from '@/api/client'
import { usePreferredScheme } from '@/components/usePreferredScheme'
import { engineering, tick } from '@/format/engineering'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import { axisAlong, axisStyle, chartTokens, tooltipStyle } from './setup'

/** A measurement along the quantity that is turned, with the limits drawn in. */
const props = defineProps<{ column: StudyColumn; places: StudyPlaces }>()

const dark = usePreferredScheme()
const option = computed(() => {
  void dark.value
  const tokens = chartTokens()
  const axis = axisStyle(tokens)
  const { values, limits, unit, title } = props.column
  const { places } = props
  const bounds = limits.flatMap(({ lower, upper }) => [
    ...(lower == null ? [] : [{ yAxis: lower, name: 'lower limit' }]),
    ...(upper == null ? [] : [{ yAxis: upper, name: 'upper limit' }]),
  ])
  const known = [...values.filter((value) => value !== null), ...bounds.map(({ yAxis }) => yAxis)]
  const [low, high] = [Math.min(...known), Math.max(...known)]
  const margin = 0.06 * (high - low) || Math.abs(high) * 0.01 || 1
  return {
    animation: false,
    textStyle: { fontFamily: tokens.font },
    grid: { left: 72, right: 28, top: 34, bottom: 44 },
    tooltip: {
      ...tooltipStyle(tokens), trigger: 'axis',
      formatter: ([point]: { value: [number, number] }[]) => (point ? `${places.title} ${engineering(point.value[0], places.unit)}<br>${engineering(point.value[1], unit)}` : ''),
    },
    xAxis: { ...axisAlong(places, tokens), nameLocation: 'middle', nameGap: 28 },
    yAxis: { type: 'value', min: low - margin, max: high + margin, name: unit ? `${title} / ${unit}` : title, ...axis, axisLine: { ...axis.axisLine, onZero: false }, nameTextStyle: { ...axis.nameTextStyle, align: 'left' }, axisLabel: { ...axis.axisLabel, formatter: tick, showMinLabel: false, showMaxLabel: false } },
    series: [
      {
        type: 'line', symbol: 'circle', symbolSize: values.length > 60 ? 0 : 5, lineStyle: { color: tokens.traces[0], width: 2 }, itemStyle: { color: tokens.traces[0] },
        data: values.map((value, k) => [places.values[k], value]),
        markLine: {
          silent: true, symbol: 'none', animation: false,
          lineStyle: { color: tokens.breaks, type: 'solid', width: 1.5 },
          label: { formatter: '{b}', position: 'insideStartTop', color: tokens.breaks, fontSize: 11 },
          data: bounds,
        },
      },
    ],
  }
})
</script>

<template>
  <VChart :option="option" autoresize role="img" :aria-label="`${column.title} along ${places.title}`" />
</template>
