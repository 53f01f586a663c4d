<script setup lang="ts">
import type { Board, Check, CheckView, Circuit, VariantEntry } from '@/api/client'
import { useCompared, useDrawn, useVariants } from '@/api/trials'
import { limitOf } from '@/experiments/measuring'
import type { Change } from '@/stores/useEditing'
import { mdiClose } from '@mdi/js'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import ComparedTable from './ComparedTable.vue'
import MeasuredFiles from './MeasuredFiles.vue'
import { heldBy, keyOf, titleOf, type Candidate } from './candidates'

/** The check, or all checks of its circuit, beside themselves with other parts in places, or as the board once was. */
const props = defineProps<{ boardId: string; board: Board; revision: number; saving: boolean; circuit: Circuit; check: Check; result: CheckView | undefined; edit: (change: Change, what: string) => Promise<void>
  /** Puts a variant onto the board. */
  take: (variant: VariantEntry['variant'], what: string) => Promise<void> }>()
const emit = defineEmits<{ close: []; overlay: [result: CheckView | undefined] }>()

const variants = useVariants(() => props.boardId, () => props.check.id)
const ticked = ref<string[]>([])
/** In the order in which they were ticked. */
const chosen = computed(() => ticked.value.flatMap((key) => (variants.data.value ?? []).filter((entry) => keyOf(entry) === key)))
/** Whether all checks of the circuit are run, this one first. */
const throughAll = ref(false)
const others = computed(() => (throughAll.value && chosen.value.length ? props.circuit.checks.filter((each) => each.id !== props.check.id && each.measurements.length) : []))
const compared = useCompared(() => props.boardId, () => [props.check, ...others.value].map(({ id }) => id), () => chosen.value.map(({ variant }) => variant))
const drawn = useDrawn(() => props.boardId, () => others.value.map(({ id }) => id))
const columns = computed(() => columnsOf(0))
const columnsOf = (check: number): Candidate[] => chosen.value.map((entry, k) => ({ ...entry, found: compared.value[check]?.data?.[k] }))
const tables = computed(() => others.value.map((check, k) => ({ check, result: drawn.value[k]?.data, columns: columnsOf(k + 1) })))
const isFetching = computed(() => compared.value.some((each) => each.isFetching))
const failure = computed(() => compared.value.find((each) => each.error)?.error?.message)
const groups = computed(() => [...new Set((variants.data.value ?? []).map(({ group }) => group))])

/** What every candidate makes of all limits of the circuit. */
const verdicts = computed(() =>
  !others.value.length ? [] : chosen.value.map((entry, k) => {
    const of = [props.check, ...others.value].flatMap((check, n) => check.measurements.filter(({ id }) => limitOf(props.board, check.id, id)).map(({ id }) => heldBy(columnsOf(n)[k], id)))
    return { entry, said: (['holds', 'thin', 'breaks', 'unproven'] as const).map((state) => [state, of.filter((each) => each === state).length] as const).filter(([, count]) => count) }
  }))

/** Whose curves are laid behind those of the cards: the one that was ticked last, or that was asked for. */
const behind = ref('')
const overlaid = computed(() => columns.value.find((column) => keyOf(column) === behind.value)?.found?.result ?? undefined)
watch(overlaid, (result) => emit('overlay', result ?? undefined), { immediate: true })
onBeforeUnmount(() => emit('overlay', undefined))
function tick(key: string, on: boolean) {
  ticked.value = on ? [...ticked.value, key] : ticked.value.filter((each) => each !== key)
  behind.value = on ? key : (ticked.value.at(-1) ?? '')
}

const name = ref('')
const trouble = ref('')
async function keep() {
  trouble.value = ''
  const title = name.value.trim() || `Revision ${props.revision}`
  try {
    await props.edit((board) => ({ ...board, baselines: [...(board.baselines ?? []), { title, revision: props.revision }] }), `baseline ${title} kept`)
    name.value = ''
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}
async function use(column: VariantEntry) {
  trouble.value = ''
  try {
    await props.take(column.variant, `${column.title} for ${column.group}`)
    ticked.value = []
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}
const drop = (title: string) => props.edit((board) => ({ ...board, baselines: (board.baselines ?? []).filter((each) => each.title !== title) }), `baseline ${title} dropped`)
</script>

<template>
  <section class="form" aria-label="Compare" @keydown.esc.stop="emit('close')">
    <header><h2>Compare</h2><v-btn :icon="mdiClose" size="x-small" variant="text" title="Close (Esc)" aria-label="Close the comparison" @click="emit('close')" /></header>
    <div class="groups">
      <fieldset v-for="group in groups" :key="group">
        <legend>{{ group }}</legend>
        <div v-for="entry in (variants.data.value ?? []).filter((each) => each.group === group)" :key="keyOf(entry)">
          <label :title="entry.hint"><input type="checkbox" :checked="ticked.includes(keyOf(entry))" :disabled="ticked.length >= 12 && !ticked.includes(keyOf(entry))" @change="tick(keyOf(entry), ($event.target as HTMLInputElement).checked)"> {{ entry.title }}</label>
          <button v-if="group === 'Baselines'" type="button" class="link" :aria-label="`Drop baseline ${entry.title}`" @click="drop(entry.title)">drop</button>
        </div>
      </fieldset>
      <p v-if="variants.data.value && !groups.length" class="soft">Nothing can stand in the place of a part here. Keep a baseline, change something, and compare with it.</p>
    </div>
    <MeasuredFiles :board-id="boardId" :check="check" :result="result" :edit="edit" />
    <form class="keep" @submit.prevent="keep">
      <input v-model="name" class="mono" maxlength="80" aria-label="Name of the baseline" :placeholder="`Revision ${revision}`">
      <v-btn size="small" variant="text" type="submit" :disabled="saving" title="Keep the board as it is now to compare with later">Keep as a baseline</v-btn>
    </form>
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    <p v-if="failure" class="wrong" role="alert">{{ failure }}</p>
    <div v-if="columns.length" :class="{ stale: isFetching }" :aria-busy="isFetching">
      <div v-if="circuit.checks.length > 1" class="through" role="group" aria-label="Compared in">
        <label><input v-model="throughAll" type="checkbox"> through all checks of {{ circuit.title }}</label>
      </div>
      <table v-if="verdicts.length" class="ruled" data-candidates>
        <tbody>
          <tr><th scope="col">Limits of {{ circuit.title }}</th><th /></tr>
          <tr v-for="{ entry, said } in verdicts" :key="keyOf(entry)"><td>{{ titleOf(entry) }}</td><td class="said"><span v-for="[state, count] in said" :key="state" :class="state">{{ count }} {{ state }}</span><span v-if="!said.length" class="soft">no limits</span></td></tr>
        </tbody>
      </table>
      <h3 v-if="others.length">{{ check.title }}</h3>
      <ComparedTable v-model:behind="behind" :board="board" :check="check" :result="result" :columns="columns" overlaying />
      <template v-for="column in columns" :key="keyOf(column)">
        <p v-if="column.found?.said" class="said">{{ titleOf(column) }}: <span class="mono">{{ column.found.said }}</span></p>
        <p v-if="column.found?.said" class="take"><v-btn size="small" variant="text" @click="use(column)">Put it onto the board</v-btn></p>
        <p v-if="column.variant.how === 'model' && column.found?.result" class="take"><v-btn size="small" variant="text" @click="use(column)">Put {{ column.title }} in the place of {{ column.group }}</v-btn></p>
        <p v-if="column.found?.result?.sentence && column.found.result.sentence !== result?.sentence" class="soft said"><b>{{ titleOf(column) }}</b>: {{ column.found.result.sentence }}</p>
      </template>
      <template v-for="table in tables" :key="table.check.id">
        <h3>{{ table.check.title }}</h3>
        <ComparedTable :board="board" :check="table.check" :result="table.result" :columns="table.columns" />
      </template>
    </div>
  </section>
</template>

<style scoped src="@/forms/form.css"></style>
<style scoped>
.groups {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  max-height: 16rem;
  overflow: auto;
}

fieldset {
  border: 0;
  padding: 0;
}

legend {
  font-size: 0.8125rem;
  font-weight: 600;
}

fieldset label {
  display: inline;
  font-size: 0.8125rem;
}

input[type='checkbox'] {
  accent-color: var(--ink);
}

.keep {
  align-items: center;
  display: flex;
  gap: 6px;
}

.keep input {
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  color: inherit;
  font-size: 0.8125rem;
  min-width: 0;
  padding: 3px 6px;
}

.link {
  color: var(--ink-soft);
  font-size: var(--size-small);
  text-decoration: underline;
}

h3 {
  font-size: 0.8125rem;
  margin: 12px 0 0;
}

.through label {
  display: inline;
  font-size: 0.8125rem;
}

table {
  font-size: 0.8125rem;
  margin-top: 6px;
  width: 100%;
}

table th,
table td {
  border: 0;
  padding: 2px 8px 2px 0;
  text-align: left;
}

td.said span + span::before {
  color: var(--ink-soft);
  content: ', ';
}

.thin {
  color: var(--thin);
}

.breaks {
  color: var(--breaks);
}

.take {
  margin: 4px 0 0;
}

.said {
  font-size: 0.8125rem;
  margin: 4px 0 0;
}
</style>
