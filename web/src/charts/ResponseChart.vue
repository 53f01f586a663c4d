<script setup lang="ts">
import type { CheckView } from '@/api/client'
import { usePreferredScheme } from '@/components/usePreferredScheme'
import { engineering, tick } from '@/format/engineering'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import { axisStyle, chartTokens, tooltipStyle } from './setup'

/** Magnitude and phase over log frequency; a mark at the -3 dB frequency. */
const props = defineProps<{ response: NonNullable<CheckView['response']>; cutoff: number | null }>()

const dark = usePreferredScheme()
const option = computed(() => {
  void dark.value
  const tokens = chartTokens()
  const axis = axisStyle(tokens)
  const { frequency, magnitude, phase } = props.response
  const [blue, orange] = tokens.traces
  return {
    animation: false,
    textStyle: { fontFamily: tokens.font },
    grid: { left: 48, right: 52, top: 34, bottom: 42 },
    tooltip: {
      trigger: 'axis',
      ...tooltipStyle(tokens),
      formatter: (points: { dataIndex: number }[]) => {
        const k = points[0]?.dataIndex ?? 0
        return `${engineering(frequency[k], 'Hz')}<br>${engineering(magnitude[k], 'dB')}<br>${engineering(phase[k], '°')}`
      },
    },
    xAxis: {
      type: 'log', name: 'frequency / Hz', nameLocation: 'middle', nameGap: 26,
      min: frequency[0], max: frequency.at(-1), ...axis,
      axisLabel: { ...axis.axisLabel, formatter: tick },
      minorSplitLine: { show: false },
    },
    yAxis: [
      {
        type: 'value', name: 'magnitude / dB', scale: true, ...axis,
        nameTextStyle: { ...axis.nameTextStyle, color: blue, align: 'left', padding: [0, 0, 0, -38] },
      },
      {
        type: 'value', name: 'phase / °', scale: true, ...axis, splitLine: { show: false },
        nameTextStyle: { ...axis.nameTextStyle, color: orange, align: 'right', padding: [0, -40, 0, 0] },
      },
    ],
    series: [
      {
        name: 'Magnitude', type: 'line', showSymbol: false, data: frequency.map((f, k) => [f, magnitude[k]]),
        lineStyle: { color: blue, width: 2 }, itemStyle: { color: blue },
        markLine: props.cutoff == null ? undefined : {
          silent: true, symbol: 'none', animation: false,
          lineStyle: { color: tokens.accent, type: 'dotted', width: 1.5 },
          label: { formatter: '−3 dB', position: 'end', color: tokens.accent, fontSize: 11 },
          data: [{ xAxis: props.cutoff }],
        },
      },
      {
        name: 'Phase', type: 'line', yAxisIndex: 1, showSymbol: false, data: frequency.map((f, k) => [f, phase[k]]),
        lineStyle: { color: orange, width: 1.6, type: [6, 4] }, itemStyle: { color: orange },
      },
    ],
  }
})
</script>

<template>
  <VChart :option="option" autoresize role="img" aria-label="Magnitude and phase over frequency" />
</template>
