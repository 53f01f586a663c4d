<script setup lang="ts">
import type { Analysis, Board, Check, CheckView, Circuit } from '@/api/client'
import type { Change } from '@/stores/useEditing'
import { mdiClose } from '@mdi/js'
import { computed, ref } from 'vue'
import { drivers, KIND_TITLES, netsOf, withAnalysis, withCheck, withCopiedCheck, withoutCheck, type Kind } from './checkEdits'
import FieldRow from './FieldRow.vue'
import PickRow from './PickRow.vue'

/** The settings of a check: its name, what is computed and how, at what temperature; copying and removing it. */
const props = defineProps<{
  board: Board
  circuit: Circuit
  check: Check
  result: CheckView | undefined
  edit: (change: Change, what: string) => Promise<void>
}>()
const emit = defineEmits<{ close: []; chosen: [check: string, circuit: string] }>()

const trouble = ref('')
async function change(make: (check: Check) => Check, what: string) {
  trouble.value = ''
  try {
    await props.edit((board) => withCheck(board, props.check.id, make), `${props.check.title}: ${what}`)
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}
/** One setting of the analysis; empty means chosen from the circuit. */
const set = (field: string, value: unknown, what: string) => change((check) => ({ ...check, analysis: { ...check.analysis, [field]: value } as Analysis }), what)

/** A whole number, as it was typed; anything else is said at once. */
function setWhole(field: string, text: string, what: string) {
  const number = Number(text)
  if (Number.isInteger(number) && text) return set(field, number, what)
  trouble.value = `'${text}' is not a whole number. Write one such as 50.`
}

const kinds = (Object.keys(KIND_TITLES) as Kind[]).map((value) => ({ value, title: KIND_TITLES[value] }))
const nets = computed(() => netsOf(props.circuit).map((net) => ({ value: net, title: net })))
const sources = computed(() => drivers(props.check.fixtures).map((name) => ({ value: name, title: name })))
const sweepable = computed(() => [
  { value: '', title: 'chosen: the first source' }, { value: 'temperature', title: 'temperature' },
  ...props.check.fixtures.filter(({ kind }) => kind !== 'written source').map(({ name }) => ({ value: name, title: name })),
  ...props.circuit.parts.filter((part) => 'value' in part).map(({ designator }) => ({ value: designator, title: designator })),
])
const begins = [{ value: 'operating point', title: 'its operating point' }, { value: 'cold', title: 'cold: zero, or its ic' }]

async function copyTo(circuit: string) {
  trouble.value = ''
  let id = ''
  try {
    await props.edit((board) => {
      const copied = withCopiedCheck(board, props.check, circuit)
      id = copied.id
      return copied.board
    }, `${props.check.title} copied`)
    emit('chosen', id, circuit)
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}
const remove = () => props.edit((board) => withoutCheck(board, props.check.id), `${props.check.title} removed`).then(() => emit('close'))
</script>

<template>
  <section class="form" aria-label="Settings of the check">
    <header><h2>Check</h2><v-btn :icon="mdiClose" size="x-small" variant="text" title="Close (Esc)" aria-label="Close the settings" @click="emit('close')" /></header>
    <FieldRow label="Name" :value="check.title" :limit="120" @set="(title) => change((old) => ({ ...old, title }), 'renamed')" />
    <PickRow label="Analysis" :value="check.analysis.kind" :options="kinds" @set="(kind) => change((old) => withAnalysis(circuit, old, kind as Kind), KIND_TITLES[kind as Kind])" />
    <template v-if="check.analysis.kind === 'frequency response'">
      <PickRow label="From source" :value="check.source" :options="sources" @set="(source) => change((old) => ({ ...old, source }), `from ${source}`)" />
      <PickRow label="To net" :value="check.output" :options="nets" @set="(output) => change((old) => ({ ...old, output }), `to ${output}`)" />
      <FieldRow label="Start" unit="Hz" :value="check.analysis.start" placeholder="from the poles" hint="The lowest frequency; empty: two decades below the slowest pole" @set="(text) => set('start', text || null, `start ${text}`)" />
      <FieldRow label="Stop" unit="Hz" :value="check.analysis.stop" placeholder="from the poles" hint="The highest frequency; empty: a decade above the fastest pole" @set="(text) => set('stop', text || null, `stop ${text}`)" />
      <FieldRow label="Points a decade" :value="String(check.analysis.points_per_decade)" @set="(text) => setWhole('points_per_decade', text, `${text} points a decade`)" />
    </template>
    <template v-else-if="check.analysis.kind === 'dc sweep'">
      <PickRow label="Sweep" :value="check.analysis.over ?? ''" :options="sweepable" hint="What takes one value after the other, at rest" @set="(over) => change((old) => ({ ...old, analysis: { ...old.analysis, over: over || null, start: null, stop: null } as Analysis }), `sweep ${over}`)" />
      <FieldRow label="Start" :value="check.analysis.start" placeholder="from the circuit" hint="Empty: between the supplies for a source, a tenth for a part" @set="(text) => set('start', text || null, `start ${text}`)" />
      <FieldRow label="Stop" :value="check.analysis.stop" placeholder="from the circuit" hint="Empty: between the supplies for a source, ten times for a part" @set="(text) => set('stop', text || null, `stop ${text}`)" />
      <FieldRow label="Points" :value="String(check.analysis.points)" @set="(text) => setWhole('points', text, `${text} points`)" />
      <label class="tick"><input type="checkbox" :checked="check.analysis.and_back" @change="set('and_back', ($event.target as HTMLInputElement).checked, 'there and back')"> and back again, to see hysteresis</label>
    </template>
    <template v-else-if="check.analysis.kind === 'transient'">
      <FieldRow label="Stop" unit="s" :value="check.analysis.stop" placeholder="from the circuit" hint="Empty: five periods of the slowest source, or five of the circuit’s slowest time constants" @set="(text) => set('stop', text || null, `stop ${text}`)" />
      <FieldRow label="Keep from" unit="s" :value="check.analysis.since" hint="Points before this time are computed but not kept" @set="(text) => set('since', text || '0', `kept from ${text}`)" />
      <FieldRow label="Longest step" unit="s" :value="check.analysis.longest" placeholder="a fiftieth of it" hint="Steps follow the error that they make; this bounds them" @set="(text) => set('longest', text || null, `longest step ${text}`)" />
      <PickRow label="Begins at" :value="check.analysis.begin" :options="begins" @set="(begin) => set('begin', begin, `begins ${begin}`)" />
    </template>
    <p v-else class="soft">Volts, amperes and watts at rest: they stand on the sheet.</p>
    <FieldRow label="Temperature" unit="°C" :value="check.temperature" @set="(temperature) => change((old) => ({ ...old, temperature }), `${temperature} °C`)" />
    <p v-if="result?.scale" class="soft">Range chosen: {{ result.scale }}.</p>
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    <div class="actions">
      <v-menu>
        <template #activator="{ props: menu }"><v-btn size="small" variant="text" v-bind="menu">Copy it</v-btn></template>
        <v-list density="compact">
          <v-list-item v-for="other in board.circuits" :key="other.id" :title="other.id === circuit.id ? 'In this circuit' : `To ${other.title}`" @click="copyTo(other.id)" />
        </v-list>
      </v-menu>
      <v-btn size="small" variant="text" @click="remove">Remove it</v-btn>
    </div>
  </section>
</template>

<style scoped src="./form.css"></style>
