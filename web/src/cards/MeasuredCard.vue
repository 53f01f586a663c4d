<script setup lang="ts">
import type { Board, Check, CheckView } from '@/api/client'
import FindingList from '@/components/FindingList.vue'
import MathText from '@/components/MathText.vue'
import { engineering, signedPercent } from '@/format/engineering'
import { limitOf } from '@/experiments/measuring'
import { mdiPlus } from '@mdi/js'
import { computed } from 'vue'

/** What a check says in numbers: measurements with hand values beside them, and what must be said of the run. */
const props = defineProps<{ board: Board; check: Check; result: CheckView | undefined; baseline: CheckView | undefined; computing: boolean; error: Error | null }>()
const emit = defineEmits<{ open: [measurement: string] }>()

// Notes on models stand in the review.
const findings = computed(() => props.result?.findings.filter(({ severity, place }) => severity !== 'note' || !place?.part) ?? [])
/** The bounds that are held on a measurement, in words. */
function held(id: string): string {
  const limit = limitOf(props.board, props.check.id, id)
  if (!limit) return ''
  return limit.lower && limit.upper ? `${limit.lower} … ${limit.upper}` : limit.lower ? `≥ ${limit.lower}` : `≤ ${limit.upper}`
}
/** Numbers of a circuit that would not stay where they hold are none to rest on. */
const isEvidence = computed(() => !props.result?.findings.some(({ severity }) => severity === 'error'))
const before = (result: CheckView | undefined, id: string) => result?.measured.find((measured) => measured.id === id)?.value
</script>

<template>
  <section class="card" :aria-busy="computing" aria-label="Measurements">
    <header><h2>Measurements</h2><span v-if="computing" class="soft">computing</span><v-btn size="x-small" variant="text" :prepend-icon="mdiPlus" title="Measure something, and hold a limit on it" @click="emit('open', '')">Measurement</v-btn></header>
    <v-alert v-if="error" type="error" variant="tonal" :text="error.message" />
    <div v-else-if="result" :class="{ stale: computing }">
      <p v-if="result.sentence" class="sentence">{{ result.sentence }}</p>
      <table v-if="result.measured.length" class="ruled">
        <thead><tr><td /><th class="number">simulated</th><th class="number">by hand</th><th class="number">deviation</th></tr></thead>
        <tbody v-for="measured in result.measured" :key="measured.id">
          <tr>
            <td>
              <button type="button" class="name" title="Change it, or hold a limit on it" @click="emit('open', measured.id)">{{ measured.title }}</button>
              <small v-if="measured.said" class="soft before">{{ measured.said }}</small>
              <small v-if="held(measured.id)" class="soft before">limit {{ held(measured.id) }}</small>
            </td>
            <td class="number" :data-measured="measured.id">
              <span :class="{ soft: !isEvidence }">{{ engineering(measured.value, measured.unit) }}</span>
              <small v-if="!isEvidence" class="soft before">no evidence</small>
              <small v-if="before(baseline, measured.id) != null" class="soft before" title="Before the value was turned">{{ engineering(before(baseline, measured.id), measured.unit) }}</small>
            </td>
            <td class="number">{{ engineering(measured.hand?.value, measured.unit) }}</td>
            <td class="number">{{ signedPercent(measured.hand?.deviation) }}</td>
          </tr>
          <tr v-if="measured.hand" class="formula">
            <td colspan="4" class="soft" :title="`${measured.hand.formula}\n${measured.hand.source}`">
              <MathText :math="measured.hand.rendered" />
              <p v-if="measured.hand.doubtful" class="doubt">Is the formula wrong, or the circuit? <template v-for="slip in measured.hand.slips" :key="slip">It would fit {{ slip }}. </template></p>
            </td>
          </tr>
        </tbody>
      </table>
      <FindingList v-if="findings.length" :findings="findings" />
      <p v-if="result.scale" class="soft scale">Range chosen: {{ result.scale }}.</p>
    </div>
  </section>
</template>

<style scoped src="./card.css"></style>
<style scoped>
.sentence {
  margin: 6px 0;
}

table.ruled th,
table.ruled td {
  padding: 4px 8px 4px 0;
}

table.ruled {
  font-size: 0.8125rem;
}

.before {
  display: block;
}

.name {
  text-align: left;
}

.name:hover {
  text-decoration: underline;
}

.formula td {
  max-width: 0;
  border-top: 0;
  font-size: var(--size-small);
}

tr:has(+ .formula) td {
  border-bottom: 0;
}

.doubt {
  color: var(--thin);
  margin: 2px 0 0;
}

.scale {
  font-size: var(--size-small);
  line-height: 1.4;
  margin: 6px 0 0;
}
</style>
