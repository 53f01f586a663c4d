import { BarChart, LineChart } from 'echarts/charts'
import { GridComponent, LegendComponent, MarkLineComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'

use([LineChart, BarChart, GridComponent, LegendComponent, MarkLineComponent, TooltipComponent, SVGRenderer])

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
