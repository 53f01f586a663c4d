<script setup lang="ts">
import type { Spread } from '@/api/client'
import { useVocabulary } from '@/api/trials'
import { withSpreads } from '@/stores/edits'
import { computed, reactive, ref } from 'vue'
import type { BoardPage } from './page'
import SpreadRow from './SpreadRow.vue'
import { REFUSAL, tolerance, type Spreadable } from './spreads'

const props = defineProps<BoardPage>()

const vocabulary = useVocabulary()
const distributions = computed(() => vocabulary.data.value?.distributions ?? [])

type Change = Omit<Spread, 'part'>

const spreads = computed(() => new Map(props.board.spreads.map((spread) => [spread.part, spread])))
const rows = computed(() =>
  props.board.circuits.flatMap((circuit) =>
    circuit.parts.flatMap((part) => ('value' in part ? [{ part: part as Spreadable, circuit: circuit.title, spread: spreads.value.get(part.designator) }] : [])),
  ),
)
const exact = computed(() => rows.value.filter((row) => !row.spread).map((row) => row.part.designator))
const SOME = 12
const named = computed(() => exact.value.slice(0, SOME).join(', ') + (exact.value.length > SOME ? ` and ${exact.value.length - SOME} others` : ''))

/** Stores a spread of some parts, null for none; answers why not. */
async function set(designators: string[], change: Change | null): Promise<string> {
  try {
    await props.edit((board) => withSpreads(board, new Map(designators.map((name) => [name, change]))), `spread of ${designators.join(', ').slice(0, 60)}`)
    return ''
  } catch (error) {
    return error instanceof Error ? error.message : String(error)
  }
}
const keep = (designator: string, change: Change | null) => set([designator], change)

// Many parts at once.
const KINDS = ['all parts', 'resistors', 'capacitors', 'inductors', 'parts without a spread'] as const
const bulk = reactive({ kind: KINDS[1] as (typeof KINDS)[number], tolerance: '1', distribution: 'uniform' as Spread['distribution'] })
const bulkRefusal = ref('')
const chosen = computed(() =>
  rows.value
    .filter(({ part, spread }) =>
      bulk.kind === 'all parts' || (bulk.kind === 'parts without a spread' ? !spread : `${part.kind}s` === bulk.kind),
    )
    .map(({ part }) => part.designator),
)

async function setMany() {
  const value = tolerance(bulk.tolerance)
  bulkRefusal.value = value === null ? REFUSAL : ''
  if (value !== null && chosen.value.length) bulkRefusal.value = await set(chosen.value, { tolerance: value, distribution: bulk.distribution })
}
</script>

<template>
  <h1>Spreads</h1>
  <p class="soft lead">
    How far each part may lie from its value as it is bought. “Normal” puts the tolerance limits at three standard
    deviations and leaves nothing outside them.
  </p>
  <form class="bulk" aria-label="Set many parts at once" @submit.prevent="setMany">
    <span>Set</span>
    <v-select v-model="bulk.kind" :items="KINDS" hide-details class="kind" aria-label="Which parts" />
    <span>to ±</span>
    <v-text-field
      v-model="bulk.tolerance" suffix="%" hide-details class="percent mono" aria-label="Tolerance for these parts"
      :error="!!bulkRefusal"
    />
    <v-select v-model="bulk.distribution" :items="distributions" item-value="key" hide-details class="distribution" aria-label="Distribution for these parts" />
    <v-btn type="submit" :disabled="!chosen.length">Set {{ chosen.length }} {{ chosen.length === 1 ? 'part' : 'parts' }}</v-btn>
    <p v-if="bulkRefusal" role="alert" class="refusal">{{ bulkRefusal }}</p>
  </form>
  <v-alert
    v-if="exact.length" type="info" variant="tonal" density="compact" class="mb-3"
    :text="`${named} ${exact.length === 1 ? 'has' : 'have'} no spread: every unit is taken as exact.`"
  />
  <table class="ruled">
    <thead>
      <tr><th>Part</th><th>Kind</th><th class="number">Value</th><th class="tolerance">Tolerance ±</th><th>Distribution</th><th>Circuit</th></tr>
    </thead>
    <tbody>
      <SpreadRow v-for="{ part, spread, circuit } in rows" :key="part.designator" :part="part" :spread="spread" :circuit="circuit" :distributions="distributions" :keep="keep" />
    </tbody>
  </table>
</template>

<style scoped>
.bulk {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin-bottom: 14px;
}

.kind {
  flex: 0 0 210px;
}

.percent {
  flex: 0 0 110px;
}

.distribution {
  flex: 0 0 240px;
  width: 240px;
}

.tolerance {
  padding-left: 24px !important;
  width: 150px;
}

.refusal {
  color: var(--breaks);
  flex-basis: 100%;
  margin: 0;
}
</style>
