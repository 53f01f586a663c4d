<script setup lang="ts">
import type { Board, Circuit, Part, PastedView, RevisionEntry } from '@/api/client'
import { useCheck } from '@/api/queries'
import { fetchNetlist, useReview } from '@/api/sheet'
import { arranged } from '@/sheet/arrange'
import type { Drawn } from '@/sheet/ends'
import { emptyDrawing } from '@/sheet/ends'
import { savePng, saveSvg, saveText } from '@/sheet/exports'
import { withResponse } from '@/sheet/fixing'
import PartCard from '@/sheet/PartCard.vue'
import PartsMenu from '@/sheet/PartsMenu.vue'
import PasteDialog from '@/sheet/PasteDialog.vue'
import PointCard from '@/sheet/PointCard.vue'
import ResponseCard from '@/sheet/ResponseCard.vue'
import ReviewList from '@/sheet/ReviewList.vue'
import RevisionsDialog from '@/sheet/RevisionsDialog.vue'
import SheetEditor from '@/sheet/SheetEditor.vue'
import { useBook } from '@/sheet/useBook'
import { withCircuitNamed, withNewCircuit, withoutCircuit, withPart } from '@/stores/edits'
import { computed, nextTick, ref, shallowRef, useTemplateRef, watch, watchEffect } from 'vue'
import type { BoardPage } from './page'

const props = defineProps<BoardPage>()

const book = useBook()
const editor = useTemplateRef<InstanceType<typeof SheetEditor>>('editor')
const trouble = ref('')

// Which circuit, which check, and perhaps an earlier revision that is only looked at.
const past = shallowRef<{ board: Board; entry: RevisionEntry } | null>(null)
const shown = computed(() => past.value?.board ?? props.board)
const circuitId = ref(props.board.circuits[0]?.id)
const circuit = computed(() => shown.value.circuits.find(({ id }) => id === circuitId.value) ?? shown.value.circuits[0])
const checkId = ref(circuit.value?.checks[0]?.id)
const check = computed(() => circuit.value?.checks.find(({ id }) => id === checkId.value) ?? circuit.value?.checks[0])
const isPast = computed(() => past.value !== null)

// The service knows of a circuit or check once it is saved.
const known = shallowRef<{ circuit: string | undefined; check: string | undefined }>({ circuit: undefined, check: undefined })
watchEffect(() => {
  if (!props.saving) known.value = isPast.value ? { circuit: undefined, check: undefined } : { circuit: circuit.value?.id, check: check.value?.id }
})
const { data: result, error, isFetching } = useCheck(() => props.boardId, () => known.value.check)
// What is shown belongs to older contents as long as an edit is being saved or computed.
const computing = computed(() => props.saving || isFetching.value)
const review = useReview(() => props.boardId, () => known.value.circuit, () => known.value.check)

/** The circuit with its drawing: its own, or one that is laid out for it. */
const drawn = shallowRef<Drawn>()
watch(
  [circuit, book],
  async ([now, symbols]) => {
    if (!now || !symbols) return
    if (now.drawing) drawn.value = now as Drawn
    else if (!now.parts.length) drawn.value = { ...now, drawing: emptyDrawing() }
    else {
      try {
        const laidOut = await layOut(now)
        if (now === circuit.value && laidOut) drawn.value = laidOut
        trouble.value = ''
      } catch (problem) {
        trouble.value = `The circuit could not be drawn: ${problem instanceof Error ? problem.message : problem}`
      }
    }
  },
  { immediate: true },
)

async function layOut(of: Circuit): Promise<Drawn | undefined> {
  if (!book.value) return undefined
  const { default: Elk } = await import('elkjs/lib/elk.bundled.js')
  return arranged(of, book.value, new Elk())
}

function edit(change: (board: Board) => Board, what: string) {
  if (isPast.value) return Promise.reject(new Error('This is an earlier revision. Return to it before you change it.'))
  return props.edit(change, what)
}

async function safely(change: (board: Board) => Board, what: string) {
  trouble.value = ''
  await edit(change, what).catch((problem: unknown) => (trouble.value = problem instanceof Error ? problem.message : String(problem)))
}

// Circuits and checks.

async function addCircuit() {
  let id = ''
  await safely((board) => {
    const next = withNewCircuit(board)
    id = next.circuits.at(-1)?.id ?? ''
    return next
  }, 'circuit begun')
  circuitId.value = id
  await nextTick()
  editor.value?.focus()
}

async function drawPasted({ circuit: pasted }: PastedView) {
  const laidOut = await layOut(pasted)
  if (!laidOut) throw new Error('The symbols are not known yet; try again.')
  await edit((board) => ({ ...board, circuits: [...board.circuits, laidOut] }), `${pasted.title} pasted`)
  circuitId.value = pasted.id
  checkId.value = pasted.checks[0]?.id
}

const renaming = ref<string | null>(null)
async function rename() {
  const title = renaming.value?.trim()
  const id = circuit.value?.id
  renaming.value = null
  if (title && id) await safely((board) => withCircuitNamed(board, id, title), `circuit called ${title}`)
}

async function removeCircuit() {
  const id = circuit.value?.id
  if (!id) return
  const title = circuit.value?.title ?? ''
  circuitId.value = props.board.circuits.find((other) => other.id !== id)?.id
  await safely((board) => withoutCircuit(board, id), `${title} removed`)
}

async function changePart(part: Part, what: string) {
  const id = circuit.value?.id
  if (id) await edit((board) => withPart(board, id, part), what)
}

async function addResponse(source: string, output: string) {
  const from = check.value
  const id = circuit.value?.id
  if (!from || !id) return
  let added = ''
  await safely((board) => {
    const next = withResponse(board, id, from, source, output)
    added = next.circuits.find((other) => other.id === id)?.checks.at(-1)?.id ?? ''
    return next
  }, 'frequency response added')
  checkId.value = added
}

// Files.

const name = computed(() => (circuit.value?.title ?? 'circuit').toLowerCase().replace(/[^a-z0-9]+/g, '-'))
async function saveNetlist(withFixture: boolean) {
  if (!circuit.value) return
  try {
    const text = await fetchNetlist(props.boardId, circuit.value.id, withFixture ? check.value?.id : undefined)
    saveText(`${name.value}${withFixture ? '' : '-board'}.cir`, text)
  } catch (problem) {
    trouble.value = problem instanceof Error ? problem.message : String(problem)
  }
}
async function savePicture(kind: 'svg' | 'png') {
  const svg = editor.value?.canvas?.svg
  const bounds = editor.value?.sheet.scene.value.bounds
  if (!svg || !bounds) return
  editor.value?.sheet.select([])
  await nextTick()
  if (kind === 'svg') saveSvg(`${name.value}.svg`, svg, bounds)
  else await savePng(`${name.value}.png`, svg, bounds)
}

// Revisions.

const pasting = ref(false)
const revisions = ref(false)
function look(board: Board, entry: RevisionEntry) {
  past.value = { board, entry }
  revisions.value = false
}
async function goBack() {
  const back = past.value
  past.value = null
  if (back) await safely(() => back.board, `returned to revision ${back.entry.revision}`)
}
</script>

<template>
  <div class="sheet-page">
    <div class="drawing">
      <header>
        <form v-if="renaming !== null" class="renaming" @submit.prevent="rename">
          <input v-model="renaming" maxlength="120" aria-label="Name of the circuit" autofocus @keydown.esc="renaming = null" @blur="rename">
        </form>
        <h1 v-else>{{ circuit?.title ?? 'No circuit yet' }}</h1>
        <nav v-if="shown.circuits.length > 1" class="circuits" aria-label="Circuits">
          <button v-for="other in shown.circuits" :key="other.id" type="button" :aria-current="other.id === circuit?.id" @click="circuitId = other.id; checkId = other.checks[0]?.id">{{ other.title }}</button>
        </nav>
        <span class="gap" />
        <label v-if="(circuit?.checks.length ?? 0) > 1" class="checks">Check
          <select :value="check?.id" aria-label="Check" @change="checkId = ($event.target as HTMLSelectElement).value">
            <option v-for="other in circuit?.checks" :key="other.id" :value="other.id">{{ other.title }}</option>
          </select>
        </label>
        <PartsMenu @choose="editor?.choose($event)" @attach="editor?.chooseAttached($event)" @trouble="trouble = $event" />
        <v-btn size="small" variant="text" @click="editor?.openStages()">Stages</v-btn>
        <v-btn size="small" variant="text" @click="pasting = true">Paste a netlist</v-btn>
        <v-menu>
          <template #activator="{ props: menu }"><v-btn size="small" variant="text" v-bind="menu">Circuit and files</v-btn></template>
          <v-list density="compact">
            <v-list-item title="New circuit" @click="addCircuit" />
            <v-list-item title="Rename this circuit" :disabled="!circuit" @click="renaming = circuit?.title ?? ''" />
            <v-list-item title="Remove this circuit" :disabled="!circuit" @click="removeCircuit" />
            <v-divider />
            <v-list-item title="Netlist, board only" @click="saveNetlist(false)" />
            <v-list-item title="Netlist with fixture" :disabled="!check" @click="saveNetlist(true)" />
            <v-list-item title="Drawing as SVG" @click="savePicture('svg')" />
            <v-list-item title="Drawing as PNG" @click="savePicture('png')" />
            <v-list-item title="Parts list (CSV)" :href="`/api/boards/${boardId}/parts-list`" />
            <v-divider />
            <v-list-item title="Revisions" @click="revisions = true" />
          </v-list>
        </v-menu>
      </header>
      <p v-if="past" class="past" role="status">
        Revision {{ past.entry.revision }}, {{ past.entry.what }}. Nothing can be changed here.
        <v-btn size="small" variant="flat" @click="goBack">Return to it</v-btn>
        <v-btn size="small" variant="text" @click="past = null">Back to the present</v-btn>
      </p>
      <v-alert v-if="trouble" type="error" variant="tonal" density="compact" :text="trouble" closable @click:close="trouble = ''" />
      <SheetEditor
        v-if="drawn && book && circuit" ref="editor" :board="shown" :circuit="drawn" :check="check" :book="book"
        :voltages="error || isPast ? undefined : result?.voltages" :stale="computing" :edit="edit"
      />
      <p v-else-if="circuit" class="soft">Drawing the circuit …</p>
      <div v-else class="empty">
        <p>This board has no circuit.</p>
        <v-btn @click="addCircuit">Begin one</v-btn>
      </div>
    </div>
    <aside aria-label="Cards">
      <template v-if="!isPast && circuit">
        <PartCard v-if="editor?.selectedPart" :board="board" :circuit="circuit" :part="editor.selectedPart" :change="changePart" />
        <ResponseCard v-if="check?.analysis.kind === 'frequency response'" :check="check" :result="result" :computing="computing" :error="error" />
        <PointCard v-else-if="check" :circuit="circuit" :check="check" :result="result" :computing="computing" :error="error" @response="addResponse" />
        <p v-else class="soft hint">Nothing is attached from outside yet. Type <b class="mono">source in 50</b>, <b class="mono">supply +5V 5</b> or <b class="mono">load out 10k</b>.</p>
        <ReviewList
          v-if="review.data.value && circuit.parts.length" :remarks="review.data.value.remarks" :findings="review.data.value.findings"
          :computing="saving || review.isFetching.value" @show="(parts, pins, nets) => editor?.show(parts, pins, nets)"
        />
      </template>
    </aside>
    <PasteDialog v-if="pasting" :board-id="boardId" :draw="drawPasted" @close="pasting = false" />
    <RevisionsDialog v-if="revisions" :board-id="boardId" :present="revision" @look="look" @close="revisions = false" />
  </div>
</template>

<style scoped>
.sheet-page {
  display: grid;
  gap: 14px;
  grid-template-columns: minmax(0, 1fr) 372px;
  height: 100%;
}

.drawing {
  display: flex;
  flex-direction: column;
  min-height: 0;
}

.sheet-editor {
  flex: 1;
}

header {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 4px;
  margin-bottom: 6px;
}

h1 {
  font-size: 1.125rem;
}

header :deep(.v-btn) {
  min-width: 0;
  padding: 0 8px;
}

.gap {
  flex: 1;
}

.circuits {
  display: flex;
  gap: 2px;
}

.circuits button {
  border-bottom: 2px solid transparent;
  color: var(--ink-soft);
  font-size: 0.8125rem;
  padding: 2px 6px;
}

.circuits button[aria-current='true'] {
  border-bottom-color: var(--accent);
  color: var(--ink-text);
}

.checks {
  color: var(--ink-soft);
  font-size: 0.8125rem;
}

select,
.renaming input {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  color: var(--ink-text);
  padding: 4px 6px;
}

.past {
  align-items: center;
  background: color-mix(in srgb, var(--thin) 12%, transparent);
  border-radius: var(--corner);
  display: flex;
  gap: 10px;
  margin: 0 0 6px;
  padding: 6px 10px;
}

aside {
  display: flex;
  flex-direction: column;
  gap: 12px;
  min-height: 0;
  overflow: auto;
}

.hint {
  line-height: 1.5;
  margin: 4px 2px;
}

.empty {
  margin: 80px auto;
  text-align: center;
}
</style>
