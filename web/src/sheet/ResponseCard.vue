<script setup lang="ts">
import type { Check, CheckView } from '@/api/client'
import ResponseChart from '@/charts/ResponseChart.vue'
import FindingList from '@/components/FindingList.vue'
import { engineering, signedPercent } from '@/format/engineering'
import { computed } from 'vue'

/** The card of a frequency response: the curves, and each measurement with the hand value beside it. */
const props = defineProps<{
  check: Check
  result: CheckView | undefined
  computing: boolean
  error: Error | null
}>()

const cutoff = computed(() => {
  const id = props.check.measurements.find((measurement) => measurement.key === 'upper_cutoff')?.id
  return props.result?.measured.find((measured) => measured.id === id)?.value ?? null
})
// Notes on models stand in the review.
const findings = computed(() => props.result?.findings.filter(({ severity, place }) => severity !== 'note' || !place?.part) ?? [])
const calm = computed(() => findings.value.every((finding) => finding.severity === 'note'))
</script>

<template>
  <section class="card" :aria-busy="computing" :aria-label="check.title">
    <header>
      <h2>{{ check.title }}</h2>
      <span class="soft mono">v({{ check.output }}) / v({{ check.source }})</span>
      <v-progress-linear v-if="computing" class="busy" indeterminate color="secondary" height="2" absolute location="bottom" />
    </header>
    <v-alert v-if="error" type="error" variant="tonal" :text="error.message" />
    <template v-else-if="result">
      <FindingList v-if="findings.length" class="findings" :class="{ calm }" :findings="findings" />
      <div class="shown" :class="{ stale: computing }">
        <ResponseChart v-if="result.response" class="chart" :response="result.response" :cutoff="cutoff" />
        <table class="ruled">
          <thead>
            <tr><th>Measurement</th><th class="number">simulated</th><th class="number">by hand</th><th class="number">deviation</th></tr>
          </thead>
          <tbody v-for="measured in result.measured" :key="measured.id">
            <tr>
              <td>{{ measured.title }}</td>
              <td class="number" :data-measured="measured.id">{{ engineering(measured.value, measured.unit) }}</td>
              <td class="number">{{ engineering(measured.hand?.value, measured.unit) }}</td>
              <td class="number">{{ signedPercent(measured.hand?.deviation) }}</td>
            </tr>
            <tr v-if="measured.hand" class="formula">
              <td colspan="4" class="mono">{{ measured.hand.formula }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="soft foot">Operating point found by {{ result.solved_by }}.</p>
    </template>
    <p v-else class="soft">Computing …</p>
  </section>
</template>

<style scoped>
.card {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  padding: 12px 14px;
}

header {
  align-items: baseline;
  border-bottom: 1px solid var(--accent);
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  justify-content: space-between;
  margin-bottom: 8px;
  padding-bottom: 6px;
  position: relative;
}

.findings {
  background: color-mix(in srgb, var(--breaks) 9%, transparent);
  border-radius: var(--corner);
  margin-bottom: 10px;
  padding: 4px 10px;
}

.findings.calm {
  background: color-mix(in srgb, var(--ink) 6%, transparent);
}

.chart {
  height: 290px;
}

.shown.stale {
  opacity: 0.45;
}

table.ruled td,
table.ruled th {
  padding: 5px 0 5px 6px;
}

table.ruled td:first-child,
table.ruled th:first-child {
  padding-left: 0;
}

tbody tr:first-child:not(:last-child) td {
  border-bottom: none;
  padding-bottom: 0;
}

.formula td {
  color: var(--ink-soft);
  font-size: var(--size-small);
  padding-top: 2px;
}

.foot {
  font-size: var(--size-small);
  margin: 8px 0 0;
}
</style>
