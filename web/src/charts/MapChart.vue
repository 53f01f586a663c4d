<script setup lang="ts">
import type { StudyColumn, StudyPlaces } from '@/api/client'
import { usePreferredScheme } from '@/components/usePreferredScheme'
import { engineering } from '@/format/engineering'
import type { CustomSeriesRenderItemAPI, CustomSeriesRenderItemParams } from 'echarts'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import { contourLines, edgesOf } from './contour'
import { axisAlong, chartTokens, tooltipStyle } from './setup'

/** A measurement over two quantities: the darker the greater, with the lines along which a limit is met. */
const props = defineProps<{ column: StudyColumn; along: StudyPlaces; across: StudyPlaces }>()
const emit = defineEmits<{ open: [row: number] }>()

const dark = usePreferredScheme()
const known = computed(() => props.column.values.filter((value) => value !== null))
const range = computed(() => [Math.min(...known.value), Math.max(...known.value)] as const)
const bounds = computed(() => props.column.limits.flatMap(({ lower, upper }) => [lower, upper].filter((bound) => bound != null)))

const option = computed(() => {
  void dark.value
  const tokens = chartTokens()
  const { along, across, column } = props
  const [low, high] = range.value
  const wide = along.values.length
  const upwards = axisAlong(across, tokens)
  const edges = [along, across].map(({ values, logarithmic }) => edgesOf(values, logarithmic)) as [number[], number[]]
  const breaks = (value: number) => column.limits.some(({ lower, upper }) => value < (lower ?? -Infinity) || value > (upper ?? Infinity))
  return {
    animation: false,
    textStyle: { fontFamily: tokens.font },
    grid: { left: 76, right: 28, top: 34, bottom: 48 },
    tooltip: {
      ...tooltipStyle(tokens),
      formatter: ({ value, dataIndex }: { value: [number, number, number | null]; dataIndex: number }) =>
        `${along.title} ${engineering(value[0], along.unit)}<br>${across.title} ${engineering(value[1], across.unit)}<br><b>${value[2] == null ? 'no number' : engineering(value[2], column.unit)}</b><br>row ${dataIndex + 1}`,
    },
    xAxis: { ...axisAlong(along, tokens), nameLocation: 'middle', nameGap: 30, splitLine: { show: false } },
    yAxis: { ...upwards, splitLine: { show: false }, nameTextStyle: { ...upwards.nameTextStyle, align: 'left' } },
    series: [
      {
        type: 'custom', data: column.values.map((value, row) => [along.values[row % wide], across.values[Math.floor(row / wide)], value]),
        renderItem: ({ dataIndex }: CustomSeriesRenderItemParams, api: CustomSeriesRenderItemAPI) => {
          const [i, j] = [dataIndex % wide, Math.floor(dataIndex / wide)]
          // To whole pixels: cells neither overlap nor leave seams.
          const [x1 = 0, y1 = 0] = api.coord([edges[0][i], edges[1][j]]).map(Math.round)
          const [x2 = 0, y2 = 0] = api.coord([edges[0][i + 1], edges[1][j + 1]]).map(Math.round)
          const value = column.values[dataIndex]
          const shade = value == null ? 0 : 0.08 + (0.72 * (value - low)) / (high - low || 1)
          return {
            type: 'rect', shape: { x: Math.min(x1, x2), y: Math.min(y1, y2), width: Math.abs(x2 - x1), height: Math.abs(y2 - y1) },
            style: { fill: value == null ? tokens.paper : breaks(value) ? tokens.breaks : tokens.ink, opacity: value == null ? 1 : shade },
          }
        },
      },
      ...bounds.value.flatMap((bound) =>
        contourLines(column.values, along.values, across.values, bound).map((line, k) => ({
          type: 'line', silent: true, symbol: 'circle', symbolSize: 0.01, lineStyle: { color: tokens.breaks, width: 2 }, z: 3, tooltip: { show: false },
          data: line.map((value, at) => (k === 0 && at === Math.floor(line.length / 2) ? { value, label: { show: true, position: 'right', formatter: engineering(bound, column.unit), color: tokens.text, textBorderColor: tokens.paper, textBorderWidth: 3 } } : value)),
        })),
      ),
    ],
  }
})
</script>

<template>
  <div class="map">
    <VChart class="plot" :option="option" autoresize role="img" :aria-label="`${column.title} over ${along.title} and ${across.title}`" @click="({ dataIndex }: { dataIndex: number }) => emit('open', dataIndex)" />
    <p class="scale" aria-hidden="true">
      <span class="mono">{{ engineering(range[0], column.unit) }}</span><i /><span class="mono">{{ engineering(range[1], column.unit) }}</span>
      <template v-if="bounds.length"><b /><span>breaks a limit</span></template>
    </p>
  </div>
</template>

<style scoped>
.map {
  display: flex;
  flex-direction: column;
}

.plot {
  flex: 1;
  min-height: 0;
}

.scale {
  align-items: center;
  display: flex;
  font-size: 0.75rem;
  gap: 8px;
  justify-content: flex-end;
  margin: 0 20px 4px;
}

.scale i {
  background: linear-gradient(to right, color-mix(in srgb, var(--ink) 8%, transparent), color-mix(in srgb, var(--ink) 80%, transparent));
  height: 10px;
  width: 120px;
}

.scale b {
  background: color-mix(in srgb, var(--breaks) 60%, transparent);
  height: 10px;
  margin-left: 12px;
  width: 20px;
}
</style>
