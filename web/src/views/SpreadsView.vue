<script setup lang="ts">
import type { Spread } from '@/api/client'
import { withSpreads } from '@/stores/edits'
import { computed, reactive, ref, watch } from 'vue'
import type { BoardPage } from './page'

const props = defineProps<BoardPage>()

const DISTRIBUTIONS = [
  { value: 'uniform', title: 'uniform' },
  { value: 'normal', title: 'normal, cut' },
] as const
type Change = Omit<Spread, 'part'>

const rows = computed(() =>
  props.board.circuits.flatMap((circuit) =>
    circuit.parts.flatMap((part) =>
      !('value' in part)
        ? []
        : [{ part, circuit: circuit.title, spread: props.board.spreads.find(({ part: name }) => name === part.designator) }],
    ),
  ),
)
const exact = computed(() => rows.value.filter((row) => !row.spread))

// What stands in the fields, as text, so that a wrong entry can be refused in place.
const drafts = reactive<Record<string, string>>({})
const refusals = reactive<Record<string, string>>({})
watch(
  rows,
  (now) => {
    for (const { part, spread } of now) drafts[part.designator] = spread ? String(spread.tolerance) : ''
  },
  { immediate: true },
)

function tolerance(text: string): number | null {
  const value = Number(text.replace('%', '').trim())
  return text.trim() !== '' && Number.isFinite(value) && value > 0 && value < 100 ? value : null
}
const REFUSAL = 'Enter per cent between 0 and 100, or leave it empty.'

async function set(designators: string[], change: Change | null) {
  try {
    await props.edit((board) => withSpreads(board, new Map(designators.map((name) => [name, change]))), `spread of ${designators.join(', ').slice(0, 60)}`)
    for (const name of designators) refusals[name] = ''
  } catch (error) {
    for (const name of designators) refusals[name] = error instanceof Error ? error.message : String(error)
  }
}

async function keep(designator: string, distribution: Spread['distribution']) {
  const text = drafts[designator] ?? ''
  const value = tolerance(text)
  if (text.trim() && value === null) {
    refusals[designator] = REFUSAL
    return
  }
  const before = props.board.spreads.find(({ part }) => part === designator)
  if (before?.tolerance === (value ?? undefined) && before?.distribution === distribution) return void (refusals[designator] = '')
  if (!before && value === null) return void (refusals[designator] = '')
  await set([designator], value === null ? null : { tolerance: value, distribution })
}

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
  if (value !== null && chosen.value.length) await set(chosen.value, { tolerance: value, distribution: bulk.distribution })
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
    <v-select v-model="bulk.distribution" :items="DISTRIBUTIONS" hide-details class="distribution" aria-label="Distribution for these parts" />
    <v-btn type="submit" :disabled="!chosen.length">Set {{ chosen.length }} {{ chosen.length === 1 ? 'part' : 'parts' }}</v-btn>
    <p v-if="bulkRefusal" role="alert" class="refusal">{{ bulkRefusal }}</p>
  </form>
  <v-alert
    v-if="exact.length" type="info" variant="tonal" density="compact" class="mb-3"
    :text="`${exact.map((row) => row.part.designator).join(', ')} ${exact.length === 1 ? 'has' : 'have'} no spread: every unit is taken as exact.`"
  />
  <table class="ruled">
    <thead>
      <tr><th>Part</th><th>Kind</th><th class="number">Value</th><th class="tolerance">Tolerance ±</th><th>Distribution</th><th>Circuit</th></tr>
    </thead>
    <tbody>
      <tr v-for="{ part, spread, circuit } in rows" :key="part.designator">
        <td><b>{{ part.designator }}</b></td>
        <td>{{ part.kind }}</td>
        <td class="number">{{ part.value }}</td>
        <td class="tolerance">
          <v-text-field
            v-model="drafts[part.designator]" suffix="%" placeholder="exact" class="mono" :aria-label="`Tolerance of ${part.designator}`"
            :error-messages="refusals[part.designator]" hide-details="auto"
            @change="keep(part.designator, spread?.distribution ?? 'uniform')"
            @keydown.enter="keep(part.designator, spread?.distribution ?? 'uniform')"
          />
        </td>
        <td class="distribution">
          <v-select
            :model-value="spread?.distribution ?? 'uniform'" :items="DISTRIBUTIONS" :disabled="!spread" hide-details
            :aria-label="`Distribution of ${part.designator}`" @update:model-value="keep(part.designator, $event)"
          />
        </td>
        <td class="soft">{{ circuit }}</td>
      </tr>
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

table.ruled td {
  padding-bottom: 4px;
  padding-top: 4px;
  vertical-align: middle;
}
</style>
