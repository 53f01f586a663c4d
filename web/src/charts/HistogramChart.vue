<script setup lang="ts">
import type { StudyColumn } from '@/api/client'
import { usePreferredScheme } from '@/components/usePreferredScheme'
import { engineering, tick } from '@/format/engineering'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import { axisStyle, chartTokens, tooltipStyle } from './setup'

/** How often each value came, with the limits drawn in. */
const props = defineProps<{ distribution: StudyColumn }>()

const dark = usePreferredScheme()
const option = computed(() => {
  void dark.value
  const tokens = chartTokens()
  const axis = axisStyle(tokens)
  const { histogram, limits, unit } = props.distribution
  if (!histogram) return {}
  const { edges, counts } = histogram
  const bounds = limits.flatMap(({ lower, upper }) => [
    ...(lower == null ? [] : [{ xAxis: lower, name: 'lower limit' }]),
    ...(upper == null ? [] : [{ xAxis: upper, name: 'upper limit' }]),
  ])
  const low = Math.min(edges[0] ?? 0, ...bounds.map((bound) => bound.xAxis))
  const high = Math.max(edges.at(-1) ?? 1, ...bounds.map((bound) => bound.xAxis))
  const margin = 0.06 * (high - low)
  const outside = (value: number) => limits.some(
    ({ lower, upper }) => (lower != null && value < lower) || (upper != null && value > upper),
  )
  return {
    animation: false,
    textStyle: { fontFamily: tokens.font },
    grid: { left: 52, right: 24, top: 34, bottom: 44 },
    tooltip: {
      ...tooltipStyle(tokens),
      formatter: ({ dataIndex }: { dataIndex: number }) =>
        `${engineering(edges[dataIndex], unit)} to ${engineering(edges[dataIndex + 1], unit)}<br>${counts[dataIndex]} rows`,
    },
    xAxis: {
      type: 'value', min: low - margin, max: high + margin, name: unit ? `${props.distribution.title} / ${unit}` : props.distribution.title,
      nameLocation: 'middle', nameGap: 28, ...axis, splitLine: { show: false },
      axisLabel: { ...axis.axisLabel, formatter: tick, showMinLabel: false, showMaxLabel: false },
    },
    yAxis: { type: 'value', name: 'rows', minInterval: 1, ...axis, nameTextStyle: { ...axis.nameTextStyle, align: 'right' } },
    series: [
      {
        type: 'line', data: [], markLine: {
          silent: true, symbol: 'none', animation: false,
          lineStyle: { color: tokens.breaks, type: 'solid', width: 1.5 },
          label: { formatter: '{b}', color: tokens.breaks, fontSize: 11 },
          data: bounds,
        },
      },
      {
        type: 'bar', barWidth: '98%', barGap: '-100%',
        data: counts.map((count, k) => ({
          value: [((edges[k] ?? 0) + (edges[k + 1] ?? 0)) / 2, count],
          itemStyle: outside(((edges[k] ?? 0) + (edges[k + 1] ?? 0)) / 2)
            ? { color: tokens.traces[1], decal: { symbol: 'rect', dashArrayX: [1, 0], dashArrayY: [3, 3], rotation: 0.8, color: tokens.paper } }
            : { color: tokens.traces[0] },
        })),
      },
    ],
  }
})
</script>

<template>
  <VChart :option="option" autoresize role="img" :aria-label="`Histogram of ${distribution.title}`" />
</template>
