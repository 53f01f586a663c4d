<script setup lang="ts">
import type { Finding, Spread } from '@/api/client'
import { useParts } from '@/api/models'
import { takePartsList, useVariable, useVocabulary } from '@/api/trials'
import { withSpreads, withValue } from '@/stores/edits'
import { bought, contributionOf, withContribution } from '@/stores/spreads'
import FindingList from '@/components/FindingList.vue'
import { mdiPlus, mdiUpload } from '@mdi/js'
import { computed, reactive, ref, useTemplateRef, watch } from 'vue'
import type { BoardPage } from './page'
import SpreadRow from './SpreadRow.vue'

const props = defineProps<BoardPage>()

const vocabulary = useVocabulary()
const distributions = computed(() => vocabulary.data.value?.distributions ?? [])
const contributors = computed(() => vocabulary.data.value?.contributors ?? [])

const spreads = computed(() => new Map(props.board.spreads.map((spread) => [spread.of, spread])))
const parts = computed(() =>
  props.board.circuits.flatMap((circuit) =>
    circuit.parts.flatMap((part) => ('value' in part ? [{ of: part.designator, kind: part.kind as string, value: part.value, circuit: circuit.title }] : [])),
  ),
)
const exact = computed(() => parts.value.filter(({ of }) => !spreads.value.has(of)).map(({ of }) => of))
const SOME = 12
const named = computed(() => exact.value.slice(0, SOME).join(', ') + (exact.value.length > SOME ? ` and ${exact.value.length - SOME} others` : ''))

// Besides the values of parts: what fixtures and models have.
const variable = useVariable(() => props.boardId)
const others = computed(() => {
  const known = new Map((variable.data.value ?? []).map((each) => [each.name, each]))
  const own = new Set(parts.value.map(({ of }) => of))
  return props.board.spreads.filter(({ of }) => !own.has(of)).map(({ of }) => {
    const found = known.get(of)
    return { of, kind: found || !variable.data.value ? 'other' : 'gone', value: found ? `${found.text}${found.unit}` : '', circuit: found?.circuit ?? '' }
  })
})
const addable = computed(() => (variable.data.value ?? []).filter(({ name }) => !spreads.value.has(name)).map(({ name, text, unit }) => ({ value: name, title: `${name}, ${text}${unit}` })))
// What was added last is seen at once.
const rows = computed(() => [...[...others.value].reverse(), ...parts.value].map((row) => ({ ...row, spread: spreads.value.get(row.of) })))
const groups = computed(() => [...new Set(props.board.spreads.flatMap(({ group }) => group ?? []))])

const headers = computed(() => [
  { title: 'Quantity', key: 'of' }, { title: 'Kind', key: 'kind' }, { title: 'Value', key: 'value', align: 'end' as const },
  ...contributors.value.flatMap(({ key, title }) => [{ title, key, sortable: false }, ...(key === 'purchase' ? [{ title: 'Distribution', key: 'distribution', sortable: false }] : [])]),
  { title: 'Group', key: 'group', sortable: false }, { title: 'Circuit', key: 'circuit' },
])

/** Stores the spreads of some quantities, null for none; answers why not. */
async function set(changes: ReadonlyMap<string, Spread | null>): Promise<string> {
  try {
    await props.edit((board) => withSpreads(board, changes), `spread of ${[...changes.keys()].join(', ').slice(0, 60)}`)
    return ''
  } catch (error) {
    return error instanceof Error ? error.message : String(error)
  }
}
const keep = (of: string, change: Spread | null) => set(new Map([[of, change]]))
const trouble = ref('')
const adding = ref<string | null>(null)
const sought = ref('')
async function add(name: string | null) {
  const amount = variable.data.value?.find((each) => each.name === name)?.amount
  if (name && amount) trouble.value = await keep(name, bought(name, amount))
  adding.value = null
  sought.value = ''
}

// Many parts at once.
const KINDS = ['all parts', 'resistors', 'capacitors', 'inductors', 'parts without a spread'] as const
const bulk = reactive({ kind: KINDS[1] as (typeof KINDS)[number], amount: '1', distribution: 'uniform', tempco: '' })
/** Grades of what is chosen: an amount, and the temperature coefficient that goes with it. */
const catalogue = useParts()
const grades = computed(() => (catalogue.data.value?.grades ?? []).filter(({ kind }) => bulk.kind === 'all parts' || bulk.kind === 'parts without a spread' || `${kind}s` === bulk.kind))
function takeGrade(key: string | null) {
  const grade = grades.value.find((each) => each.key === key)
  if (!grade) return
  bulk.amount = String(grade.tolerance)
  bulk.tempco = grade.tempco ? `${grade.tempco}ppm` : ''
}
watch(() => bulk.kind, () => (bulk.tempco = ''))
const bulkRefusal = ref('')
const chosen = computed(() =>
  parts.value
    .filter(({ of, kind }) => bulk.kind === 'all parts' || (bulk.kind === 'parts without a spread' ? !contributionOf(spreads.value.get(of), 'purchase') : `${kind}s` === bulk.kind))
    .map(({ of }) => of),
)

async function setMany() {
  bulkRefusal.value = bulk.amount.trim() ? '' : 'Write how far they may lie from their values, such as 1 for ±1 %.'
  if (!chosen.value.length || bulkRefusal.value) return
  const change = { amount: bulk.amount.trim(), distribution: bulk.distribution, form: null }
  const coefficients = chosen.value.map((of): [string, Spread] => [`${of}.tempco`, bought(`${of}.tempco`, bulk.tempco.trim())])
  const values = chosen.value.map((of): [string, Spread | null] => [of, withContribution(of, spreads.value.get(of), 'purchase', change)])
  bulkRefusal.value = await set(new Map([...values, ...(bulk.tempco.trim() ? coefficients : [])]))
}

// A list of parts from elsewhere: all that it says otherwise, in one edit.
const listed = ref<{ said: string; findings: Finding[] } | null>(null)
const picker = useTemplateRef<HTMLInputElement>('picker')
async function takeList(file: File | undefined) {
  if (!file) return
  listed.value = { said: `${file.name} is read …`, findings: [] }
  try {
    const { values, spreads: taken, known, findings } = await takePartsList(props.boardId, file)
    const turned = Object.entries(values)
    if (turned.length || taken.length) {
      await props.edit((board) => turned.reduce((next, [of, value]) => withValue(next, of, value), withSpreads(board, new Map(taken.map((each) => [each.of, each as Spread])))), `parts list ${file.name} taken`)
    }
    listed.value = { said: `${file.name}: ${known} parts of the board are in it; ${turned.length} values and ${taken.length} spreads differed and were taken.`, findings: findings as Finding[] }
  } catch (error) {
    listed.value = { said: error instanceof Error ? error.message : String(error), findings: [] }
  }
  if (picker.value) picker.value.value = ''
}
</script>

<template>
  <div class="head" @dragover.prevent @drop.prevent="takeList($event.dataTransfer?.files[0])">
    <h1>Spreads</h1>
    <v-btn size="small" variant="text" :prepend-icon="mdiUpload" title="Values and tolerances from a parts list in CSV with designators, values and tolerances; or drop it here" @click="picker?.click()">Take a parts list</v-btn>
    <a :href="`/api/boards/${boardId}/parts-list`" download title="All parts with their tolerances, as CSV">Save it as CSV</a>
    <input ref="picker" type="file" hidden accept=".csv,.txt,.tsv" aria-label="Parts list" @change="takeList(($event.target as HTMLInputElement).files?.[0])">
  </div>
  <div v-if="listed" class="listed" role="status">
    <p>{{ listed.said }}</p>
    <FindingList :findings="listed.findings" />
  </div>
  <p class="soft lead">
    How far each quantity may lie from its value: as it is bought, and what its life and surroundings add. <span class="mono">1</span> is
    ±1 %; <span class="mono">-20 +80</span>, <span class="mono">±0.5p</span> and <span class="mono">100ppm</span> are read too.
  </p>
  <form class="bulk" aria-label="Set many parts at once" @submit.prevent="setMany">
    <span>Set</span>
    <v-select v-model="bulk.kind" :items="KINDS" hide-details class="kind" aria-label="Which parts" />
    <span>to</span>
    <v-select :items="grades" :model-value="null" item-title="title" item-value="key" hide-details class="grade" placeholder="a grade" aria-label="Grade for these parts" @update:model-value="takeGrade" />
    <v-text-field
      v-model="bulk.amount" hide-details class="percent mono" aria-label="Tolerance for these parts" title="1 is ±1 %; also -20 +80, ±100ppm, ±0.5p"
      :error="!!bulkRefusal"
    />
    <v-text-field v-model="bulk.tempco" hide-details class="percent mono" placeholder="ppm/°C" aria-label="Temperature coefficient for these parts" title="How far temperature coefficients lie from what parts are given, such as 50ppm; empty leaves them as they are" />
    <v-select v-model="bulk.distribution" :items="distributions" item-value="key" hide-details class="distribution" aria-label="Distribution for these parts" />
    <v-btn type="submit" :disabled="!chosen.length">Set {{ chosen.length }} {{ chosen.length === 1 ? 'part' : 'parts' }}</v-btn>
    <v-autocomplete
      v-model="adding" v-model:search="sought" :items="addable" :prepend-inner-icon="mdiPlus" label="Source, load, model parameter, or error of a part" hide-details class="other" no-data-text="Nothing else has a value yet: attach a source, or place a model."
      @update:model-value="add"
    />
    <p v-if="bulkRefusal || trouble" role="alert" class="refusal">{{ bulkRefusal || trouble }}</p>
  </form>
  <v-alert
    v-if="exact.length" type="info" variant="tonal" density="compact" class="mb-3"
    :text="`${named} ${exact.length === 1 ? 'has' : 'have'} no spread: every unit is taken as exact.`"
  />
  <datalist id="groups"><option v-for="name in groups" :key="name" :value="name" /></datalist>
  <v-data-table-virtual :headers="headers" :items="rows" item-value="of" item-height="39" density="compact" class="table" fixed-header hover>
    <template #item="{ item }">
      <SpreadRow
        :key="item.of" :of="item.of" :kind="item.kind" :value="item.value" :circuit="item.circuit" :spread="item.spread" :contributors="contributors"
        :distributions="distributions" :keep="keep"
      />
    </template>
    <template #no-data>No part has a value yet. Place one on the sheet.</template>
  </v-data-table-virtual>
</template>

<style scoped>
.head {
  align-items: baseline;
  display: flex;
  gap: 8px;
}

.listed {
  margin-bottom: 12px;
  max-width: 90ch;
}

.listed p {
  margin: 0 0 4px;
}

.bulk {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin-bottom: 14px;
}

.kind {
  flex: 0 0 190px;
}

.grade {
  flex: 0 0 130px;
}

.percent {
  flex: 0 0 96px;
}

.distribution {
  flex: 0 0 220px;
  width: 220px;
}

.other {
  flex: 1 0 260px;
  max-width: 360px;
}

.table {
  background: transparent;
  max-height: calc(100vh - 290px);
}

.table :deep(th) {
  background: var(--paper) !important;
  padding: 0 6px !important;
}

.refusal {
  color: var(--breaks);
  flex-basis: 100%;
  margin: 0;
}
</style>
