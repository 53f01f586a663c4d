import { BarChart, CustomChart, LineChart } from 'echarts/charts'
import { GridComponent, LegendComponent, MarkLineComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { tick } from '@/format/engineering'
import { scaleLog } from 'd3-scale'

use([LineChart, BarChart, CustomChart, GridComponent, LegendComponent, MarkLineComponent, TooltipComponent, SVGRenderer])

/** The tokens of the page as charts need them: as colours, read anew whenever the scheme changes. */
export function chartTokens() {
  const style = getComputedStyle(document.documentElement)
  const token = (name: string) => style.getPropertyValue(`--${name}`).trim()
  return {
    ink: token('ink'),
    text: token('ink-text'),
    soft: token('ink-soft'),
    rule: token('rule'),
    paper: token('paper-raised'),
    accent: token('accent'),
    breaks: token('breaks'),
    traces: [1, 2, 3, 4].map((k) => token(`trace-${k}`)) as [string, string, string, string],
    mono: token('mono'),
    font: token('text'),
  }
}
export type ChartTokens = ReturnType<typeof chartTokens>

/** What all axes share. */
export function axisStyle(tokens: ChartTokens) {
  return {
    axisLine: { show: true, lineStyle: { color: tokens.soft } },
    axisTick: { lineStyle: { color: tokens.soft } },
    axisLabel: { color: tokens.soft, fontFamily: tokens.mono, fontSize: 11 },
    nameTextStyle: { color: tokens.soft, fontSize: 11 },
    splitLine: { lineStyle: { color: tokens.rule } },
  }
}

export function tooltipStyle(tokens: ChartTokens) {
  return {
    backgroundColor: tokens.paper,
    borderColor: tokens.rule,
    textStyle: { color: tokens.text, fontFamily: tokens.mono, fontSize: 12 },
  }
}

/** The axis along a quantity that takes some values one after the other. */
export function axisAlong({ title, unit, values, logarithmic }: { title: string; unit: string; values: number[]; logarithmic: boolean }, tokens: ChartTokens) {
  const axis = axisStyle(tokens)
  const [first = 0, last = 1] = [values[0], values.at(-1)]
  const [min, max] = [Math.min(...values), Math.max(...values)]
  // Within about a decade a logarithmic axis would have no ticks of its own but its ends.
  const ticks = logarithmic && min > 0 && max / min < 30 ? { customValues: scaleLog().domain([min, max]).ticks(6) } : {}
  return {
    ...axis, type: logarithmic ? ('log' as const) : ('value' as const), min, max, inverse: first > last, name: unit ? `${title} / ${unit}` : title,
    axisLine: { ...axis.axisLine, onZero: false }, axisTick: { ...axis.axisTick, ...ticks }, axisLabel: { ...axis.axisLabel, formatter: tick, hideOverlap: true, ...ticks },
  }
}
