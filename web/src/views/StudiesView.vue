<script setup lang="ts">
import { isActive, useRunControl, useStudy } from '@/api/queries'
import '@/charts/setup'
import HistogramChart from '@/charts/HistogramChart.vue'
import { engineering, percent } from '@/format/engineering'
import { withStudy } from '@/stores/edits'
import { mdiPlay, mdiStop } from '@mdi/js'
import { computed, ref, watch } from 'vue'
import type { BoardPage } from './page'

const props = defineProps<BoardPage>()

const study = computed(() => props.board.studies[0])
const { data: view, error } = useStudy(() => props.boardId, () => study.value?.id)
const control = useRunControl(() => props.boardId, () => study.value?.id ?? '')
const run = computed(() => view.value?.run)
const active = computed(() => isActive(view.value))
const check = computed(() => {
  for (const circuit of props.board.circuits) {
    const found = circuit.checks.find(({ id }) => id === study.value?.check)
    if (found) return { circuit: circuit.title, title: found.title }
  }
  return undefined
})
const spreadCount = computed(() => props.board.spreads.length)

const seed = ref('')
const rows = ref('')
const refusal = ref('')
watch(
  study,
  (now) => {
    seed.value = String(now?.seed ?? '')
    rows.value = String(now?.rows ?? '')
  },
  { immediate: true },
)

/** The evidence there is belongs to exactly what is entered: another run would give the same rows. */
const upToDate = computed(
  () =>
    run.value?.current === true && run.value.state === 'done' &&
    seed.value === String(study.value?.seed) && rows.value === String(study.value?.rows),
)

/** Store changed settings; false when they were refused. */
async function keep(): Promise<boolean> {
  const now = study.value
  if (!now) return false
  const next = { seed: Number(seed.value), rows: Number(rows.value) }
  if (!/^\d+$/.test(seed.value.trim()) || next.seed > 4294967295) refusal.value = 'The seed is a whole number from 0 to 4294967295.'
  else if (!/^\d+$/.test(rows.value.trim()) || next.rows < 10 || next.rows > 100000) refusal.value = 'Rows are a whole number from 10 to 100000.'
  else {
    refusal.value = ''
    if (next.seed === now.seed && next.rows === now.rows) return true
    try {
      await props.edit((board) => withStudy(board, now.id, next), 'study changed')
      return true
    } catch (problem) {
      refusal.value = problem instanceof Error ? problem.message : String(problem)
    }
  }
  return false
}

async function start() {
  if (await keep()) control.start.mutate()
}

const shownId = ref<string>()
const limited = computed(() => run.value?.distributions.find(({ limits }) => limits.length)?.id)
const shown = computed(() =>
  run.value?.distributions.find(({ id }) => id === (shownId.value ?? limited.value)) ?? run.value?.distributions[0],
)

const state = computed(() => {
  const now = run.value
  if (!now) return { type: 'info' as const, text: 'Not run yet.' }
  if (active.value) return undefined
  if (!now.current) return { type: 'warning' as const, text: 'Out of date: parts, models or spreads have changed since this run. Run it again for current evidence.' }
  if (now.state === 'failed') return { type: 'error' as const, text: now.message }
  if (now.state === 'cancelled') return { type: 'warning' as const, text: `Cancelled after ${now.rows_done} of ${now.rows} rows; they are shown below.` }
  return undefined
})

const figures = computed(() => {
  const distribution = shown.value
  const summary = distribution?.summary
  if (!distribution || !summary) return []
  const value = (number: number) => engineering(number, distribution.unit)
  return [
    ['n', String(summary.n)],
    ['mean', value(summary.mean)],
    ['σ', value(summary.sigma)],
    ['min', value(summary.min)],
    ['10 %', value(summary.p10)],
    ['median', value(summary.median)],
    ['90 %', value(summary.p90)],
    ['max', value(summary.max)],
    ['mean − 3σ', value(summary.mean - 3 * summary.sigma)],
    ['mean + 3σ', value(summary.mean + 3 * summary.sigma)],
  ]
})
</script>

<template>
  <template v-if="study && check">
    <h1>Monte Carlo</h1>
    <p class="soft lead">{{ check.circuit }}, {{ check.title.toLowerCase() }}; {{ spreadCount }} parts with a spread.</p>
    <form class="settings" @submit.prevent="start">
      <v-text-field v-model="rows" label="Rows" inputmode="numeric" hide-details class="mono field" :disabled="active" @change="keep" />
      <v-text-field v-model="seed" label="Seed" inputmode="numeric" hide-details class="mono field" :disabled="active" @change="keep" />
      <v-btn v-if="!active" type="submit" variant="flat" :prepend-icon="mdiPlay" :loading="control.start.isPending.value" :disabled="upToDate">
        {{ run ? 'Run again' : 'Run' }}
      </v-btn>
      <v-btn v-else :prepend-icon="mdiStop" color="secondary" @click="control.cancel.mutate()">Cancel</v-btn>
      <div v-if="active && run" class="progress" role="status">
        <v-progress-linear :model-value="(100 * run.rows_done) / run.rows" color="secondary" height="6" rounded :aria-label="'Rows done'" />
        <span class="mono">{{ run.rows_done }} of {{ run.rows }} rows{{ run.seconds_left == null ? '' : `, about ${Math.ceil(run.seconds_left)} s left` }}</span>
      </div>
      <span v-else-if="upToDate" class="soft">Up to date. The same seed gives the same rows, every time.</span>
    </form>
    <p v-if="refusal" role="alert" class="refusal">{{ refusal }}</p>
    <v-alert v-if="control.start.error.value" type="error" variant="tonal" class="mb-3" :text="control.start.error.value.message" />
    <v-alert v-if="error" type="error" variant="tonal" :text="error.message" />
    <v-alert v-else-if="state" density="compact" variant="tonal" class="mb-3" :type="state.type" :text="state.text" />
    <template v-if="run && shown">
      <div class="choice" role="group" aria-label="Measurement">
        <v-btn
          v-for="distribution in run.distributions" :key="distribution.id" size="small"
          :variant="distribution.id === shown.id ? 'flat' : 'outlined'" :aria-pressed="distribution.id === shown.id"
          @click="shownId = distribution.id"
        >{{ distribution.title }}</v-btn>
      </div>
      <div class="evidence" :class="{ stale: !run.current }">
        <HistogramChart v-if="shown.histogram" class="chart" :distribution="shown" />
        <p v-else class="soft">No row has given a number yet.</p>
        <p v-if="shown.without" class="refusal">{{ shown.without }}.</p>
        <div>
          <div v-for="limit in shown.limits" :key="limit.id" class="yield">
            <span class="soft">Yield</span>
            <strong class="mono" data-yield>{{ percent(limit.within?.share) }}</strong>
            <span class="soft">{{ limit.within?.passed ?? 0 }} of {{ limit.within?.total ?? 0 }} rows within
              {{ engineering(limit.lower, shown.unit) }} … {{ engineering(limit.upper, shown.unit) }};
              95 % confidence {{ percent(limit.within?.low) }} to {{ percent(limit.within?.high) }}</span>
          </div>
          <table class="ruled figures">
            <tbody>
              <tr v-for="[name, value] in figures" :key="name"><th scope="row">{{ name }}</th><td class="number" :data-figure="name">{{ value }}</td></tr>
            </tbody>
          </table>
        </div>
      </div>
    </template>
  </template>
  <p v-else>This board has no study yet.</p>
</template>

<style scoped>
.settings {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  margin-bottom: 14px;
  min-height: 44px;
}

.field {
  flex: 0 0 130px;
}

.progress {
  flex: 1;
  max-width: 420px;
}

.refusal {
  color: var(--breaks);
  margin: -6px 0 12px;
}

.choice {
  display: flex;
  gap: 8px;
  margin-bottom: 10px;
}

.evidence {
  display: grid;
  gap: 26px;
  grid-template-columns: minmax(0, 1fr) 270px;
}

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
