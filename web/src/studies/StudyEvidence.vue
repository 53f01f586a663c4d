<script setup lang="ts">
import type { StudyColumn, StudyView } from '@/api/client'
import { isActive } from '@/api/queries'
import '@/charts/setup'
import AlongChart from '@/charts/AlongChart.vue'
import MapChart from '@/charts/MapChart.vue'
import HistogramChart from '@/charts/HistogramChart.vue'
import { engineering, percent } from '@/format/engineering'
import { computed, ref, useTemplateRef } from 'vue'
import type { Change } from '@/stores/useEditing'
import BlameList from './BlameList.vue'
import CornersTable from './CornersTable.vue'
import EnvelopePanel from './EnvelopePanel.vue'
import RemediesPanel from './RemediesPanel.vue'
import RowsTable from './RowsTable.vue'
import StateMark from '@/components/StateMark.vue'

/** What the rows of a study say: one measurement at a time, as it is distributed or along what is turned. */
const props = defineProps<{ boardId: string; view: StudyView
  /** A study on the same board that draws from the spreads, if there is one. */
  beside: string | undefined
  edit: (change: Change, what: string) => Promise<void> }>()
const emit = defineEmits<{ open: [check: string, row: number, values: Record<string, number>] }>()

const keyOf = (column: StudyColumn) => `${column.check} ${column.id}`
const chosen = ref<string>()
/** Whether curves are looked at beside the numbers. */
const curves = ref(false)
/** Whether it is looked for what would help. */
const helping = ref(false)
const limited = computed(() => props.view.columns.find(({ limits }) => limits.length))
const shown = computed(() => props.view.columns.find((column) => keyOf(column) === chosen.value) ?? limited.value ?? props.view.columns[0])
const along = computed(() => props.view.places[0])
const across = computed(() => props.view.places[1])
const several = computed(() => new Set(props.view.columns.map(({ check }) => check)).size > 1)

const figures = computed(() => {
  const column = shown.value
  const summary = column?.summary
  if (!column || !summary) return []
  const value = (number: number) => engineering(number, column.unit)
  if (props.view.shape === 'corners') return []
  if (props.view.shape === 'curve') return [...drifts(column), ['least', value(summary.min)], ['greatest', value(summary.max)], ...(across.value ? [] : [['from end to end', value((column.values.at(-1) ?? NaN) - (column.values[0] ?? NaN))] as [string, string]])]
  return [
    ['n', String(summary.n)], ['mean', value(summary.mean)], ['σ', value(summary.sigma)], ['skew', summary.skew.toFixed(2)],
    ['min', value(summary.min)], ['1 %', value(summary.p1)], ['10 %', value(summary.p10)], ['median', value(summary.median)],
    ['90 %', value(summary.p90)], ['99 %', value(summary.p99)], ['max', value(summary.max)],
    ['mean − 3σ', value(summary.mean - 3 * summary.sigma)], ['mean + 3σ', value(summary.mean + 3 * summary.sigma)],
    ...capabilities(column),
  ]
})
const drifts = ({ drift, unit }: StudyColumn): [string, string][] =>
  drift
    ? [['slope', `${engineering(drift.slope, unit)}/°C`], ...(drift.ppm == null ? [] : [['slope, relative', `${drift.ppm.toPrecision(4)} ppm/°C`] as [string, string]]), ...(drift.box == null ? [] : [['box, all of it', `${drift.box.toPrecision(4)} ppm/°C`] as [string, string]])]
    : []
const capabilities = ({ limits }: StudyColumn): [string, string][] =>
  limits.flatMap(({ capability }): [string, string][] =>
    capability ? [...(capability.cp == null ? [] : [['Cp', capability.cp.toFixed(2)] as [string, string]]), ['Cpk', capability.cpk.toFixed(2)]] : [],
  )
/** What the test of fit says of the numbers' form. */
const form = computed(() => {
  const normal = shown.value?.summary?.normal
  if (props.view.shape !== 'distribution' || normal == null) return ''
  const chance = normal < 0.001 ? 'less than 0.1 %' : percent(normal, 2)
  return normal < 0.05
    ? `Not normally distributed (Anderson-Darling, probability ${chance}): read percentiles, not multiples of σ.`
    : `A normal distribution fits (Anderson-Darling, probability ${chance}).`
})
/** How many rows there were when they were last listed: ten times in a run, and at its end. */
const looked = computed(() => (isActive(props.view) ? Math.floor((10 * props.view.rows_done) / props.view.rows) : props.view.rows_done))
const table = useTemplateRef<InstanceType<typeof RowsTable>>('table')
const openedRow = (row: number) => void table.value?.openRow(row)
/** A limit by what it is on. */
function titleOf(limit: string): string {
  const column = props.view.columns.find(({ limits }) => limits.some(({ id }) => id === limit))
  return column ? (several.value ? `${column.check_title}: ${column.title}` : column.title) : limit
}
const limitCount = computed(() => props.view.columns.reduce((count, { limits }) => count + limits.length, 0))
</script>

<template>
  <p v-if="view.together && limitCount > 1" class="together" :class="{ stale: !view.current }" data-together>
    <strong class="mono">{{ percent(view.together.within.share) }}</strong> of the units are within all {{ limitCount }} limits
    <span class="soft">({{ view.together.within.passed }} of {{ view.together.within.total }}; 95 % confidence {{ percent(view.together.within.low) }} to {{ percent(view.together.within.high) }})</span>.
    <template v-if="view.together.failing.length">First to fail: <template v-for="(each, k) in view.together.failing.slice(0, 3)" :key="each.limit">{{ k ? ', ' : '' }}{{ titleOf(each.limit) }} <span class="soft">{{ each.units }} units, {{ each.alone }} by it alone</span></template>.</template>
  </p>
  <div class="choice" role="group" aria-label="Measurement">
    <v-btn
      v-for="column in view.columns" :key="keyOf(column)" size="small" :title="`${column.circuit}, ${column.check_title}`"
      :variant="column === shown ? 'flat' : 'outlined'" :aria-pressed="column === shown" @click="chosen = keyOf(column)"
    >{{ several ? `${column.check_title}: ${column.title}` : column.title }}</v-btn>
  </div>
  <div v-if="shown" class="evidence" :class="{ stale: !view.current }">
    <div>
      <CornersTable v-if="shown.corners" :board-id="boardId" :column="shown" :corners="shown.corners" :beside="beside" @open="openedRow" />
      <MapChart v-else-if="along && across && shown.summary" class="chart" :column="shown" :along="along" :across="across" @open="openedRow" />
      <AlongChart v-else-if="along && shown.summary" class="chart" :column="shown" :places="along" />
      <HistogramChart v-else-if="shown.histogram" class="chart" :distribution="shown" />
      <p v-else class="soft">{{ view.shape === 'corners' && view.rows_done ? 'Its corners are told when all are computed.' : 'No row has given a number yet.' }}</p>
      <p v-if="shown.without" class="refusal">{{ shown.without }}.</p>
      <template v-if="view.current && view.shape === 'distribution' && !isActive(view)">
        <v-btn size="small" variant="text" :aria-expanded="curves" @click="curves = !curves">{{ curves ? 'Hide its curves' : 'Curves of all units' }}</v-btn>
        <v-btn v-if="limitCount" size="small" variant="text" :aria-expanded="helping" @click="helping = !helping">{{ helping ? 'Hide what would help' : 'What would help?' }}</v-btn>
        <EnvelopePanel v-if="curves" :board-id="boardId" :study="view.study.id" :check="shown.check" :rows="view.rows_done" />
        <RemediesPanel v-if="helping && limitCount" :board-id="boardId" :study="view.study.id" :rows="view.rows_done" :edit="edit" />
      </template>
      <BlameList v-if="view.current && view.shape === 'distribution'" :board-id="boardId" :study="view.study.id" :column="shown" :rows="looked" />
    </div>
    <div>
      <template v-if="view.shape === 'corners'">
        <p v-for="limit in shown.limits" :key="limit.id" class="yield" data-yield>
          <StateMark :state="limit.within && limit.within.passed === limit.within.total ? 'holds' : 'breaks'" />
          <span class="soft">{{ limit.within?.passed ?? 0 }} of {{ limit.within?.total ?? 0 }} rows within {{ engineering(limit.lower, shown.unit) }} … {{ engineering(limit.upper, shown.unit) }}</span>
        </p>
      </template>
      <div v-for="limit in shown.limits" v-else :key="limit.id" class="yield">
        <span class="soft">{{ view.shape === 'distribution' ? 'Yield' : 'Within the limit' }}</span>
        <strong class="mono" data-yield>{{ percent(limit.within?.share) }}</strong>
        <span class="soft">{{ limit.within?.passed ?? 0 }} of {{ limit.within?.total ?? 0 }} rows within
          {{ engineering(limit.lower, shown.unit) }} … {{ engineering(limit.upper, shown.unit) }}<template v-if="view.shape === 'distribution'">;
            95 % confidence {{ percent(limit.within?.low) }} to {{ percent(limit.within?.high) }}</template></span>
        <span v-for="place in limit.reached" :key="place.at" data-reached>{{ engineering(place.bound, shown.unit) }} at {{ along?.title }} = {{ engineering(place.at, along?.unit) }}, holds {{ place.holds }}<template v-if="place.preferred != null">; of E24 {{ engineering(place.preferred, along?.unit, 3) }}</template></span>
      </div>
      <table class="ruled figures">
        <tbody>
          <tr v-for="[name, value] in figures" :key="name"><th scope="row">{{ name }}</th><td class="number" :data-figure="name">{{ value }}</td></tr>
        </tbody>
      </table>
      <p v-if="form" class="soft">{{ form }}</p>
    </div>
  </div>
  <RowsTable v-if="shown && view.current" ref="table" :board-id="boardId" :study="view.study.id" :rows="looked" :check="shown.check" @open="(row, values) => emit('open', shown!.check, row, values)" />
</template>

<style scoped>
.choice {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-bottom: 10px;
}

.evidence {
  display: grid;
  gap: 26px;
  grid-template-columns: minmax(0, 1fr) 270px;
}

.together {
  margin: 0 0 10px;
}

.together.stale,
.evidence.stale {
  opacity: 0.55;
}

.chart {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  height: 430px;
  padding: 8px;
}

.refusal {
  color: var(--breaks);
}

.yield {
  margin-bottom: 12px;
}

.yield strong {
  color: var(--ink);
  display: block;
  font-size: 1.75rem;
  font-weight: 500;
}

.yield span {
  display: block;
}

.figures th {
  font-size: var(--size-body);
  font-weight: 400;
}
</style>
