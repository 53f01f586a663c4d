<script setup lang="ts">
import type { Board, CheckCard, CheckView, Circuit, Fixture, Part, PastedView, RevisionEntry, VariantEntry } from '@/api/client'
import { useCheck, useWatts } from '@/api/queries'
import { fetchFreshCheck, fetchNetlist, fetchRenamed, fetchTurned, useChanges, useReview } from '@/api/sheet'
import { usePartShares } from '@/api/studies'
import { fetchProgress, fetchTaken, stopRun, useQuantities, type Progress } from '@/api/trials'
import { newCard, subjectOf, subjectOfCheck, takesCurves, withCard, withCards, withoutTrace, withTrace } from '@/cards/cardEdits'
import LeaderLines from '@/cards/LeaderLines.vue'
import MeasuredCard from '@/cards/MeasuredCard.vue'
import MovableCard from '@/cards/MovableCard.vue'
import { componentOf } from '@/cards/registry'
import RestCard from '@/cards/RestCard.vue'
import EvidenceView from '@/evidence/EvidenceView.vue'
import { withFreshCheck } from '@/experiments/checkEdits'
import CheckBar from '@/experiments/CheckBar.vue'
import CheckForm from '@/experiments/CheckForm.vue'
import MeasurementForm from '@/experiments/MeasurementForm.vue'
import FixtureForm from '@/experiments/FixtureForm.vue'
import { useKinds } from '@/experiments/useKinds'
import { fileName, saveText } from '@/format/files'
import { useCommands } from '@/palette/commands'
import { arranged } from '@/sheet/arrange'
import type { Drawn } from '@/sheet/ends'
import { emptyDrawing } from '@/sheet/ends'
import { savePng, saveSvg } from '@/sheet/exports'
import { withFixtureChanged } from '@/sheet/fixing'
import { fixtureKey } from '@/sheet/hits'
import { withNewcomers } from '@/sheet/joining'
import { withCircuit } from '@/sheet/operations'
import PartCard from '@/sheet/PartCard.vue'
import PartsMenu from '@/sheet/PartsMenu.vue'
import PasteDialog from '@/sheet/PasteDialog.vue'
import ReviewList from '@/sheet/ReviewList.vue'
import RevisionsDialog from '@/sheet/RevisionsDialog.vue'
import SheetEditor from '@/sheet/SheetEditor.vue'
import { provideTurned } from '@/sheet/turned'
import { useBook } from '@/sheet/useBook'
import { withCircuitNamed, withNewCircuit, withoutCircuit, withPart } from '@/stores/edits'
import ComparePanel from '@/compare/ComparePanel.vue'
import { takeOpenedRow } from '@/trim/opened'
import TrimPanel from '@/trim/TrimPanel.vue'
import { useTrim } from '@/trim/useTrim'
import { computed, nextTick, onBeforeUnmount, ref, shallowRef, useTemplateRef, watch, watchEffect } from 'vue'
import type { BoardPage } from './page'

const props = defineProps<BoardPage>()

const book = useBook()
const kinds = useKinds()
const editor = useTemplateRef<InstanceType<typeof SheetEditor>>('editor')
const page = useTemplateRef<HTMLDivElement>('page')
const margin = useTemplateRef<HTMLElement>('margin')
const trouble = ref('')

// Which circuit, which check, and perhaps an earlier revision that is only looked at.
const past = shallowRef<{ board: Board; entry: RevisionEntry } | null>(null)
const shown = computed(() => past.value?.board ?? props.board)
/** A row of a study, where one was opened. */
const opened = takeOpenedRow()
const homeOf = (id: string | undefined) => props.board.circuits.find(({ checks }) => checks.some((each) => each.id === id))
const circuitId = ref((homeOf(opened?.check) ?? props.board.circuits[0])?.id)
const circuit = computed(() => shown.value.circuits.find(({ id }) => id === circuitId.value) ?? shown.value.circuits[0])
const checkId = ref(opened?.check ?? circuit.value?.checks[0]?.id)
const check = computed(() => circuit.value?.checks.find(({ id }) => id === checkId.value) ?? circuit.value?.checks[0])
const isPast = computed(() => past.value !== null)
const changes = useChanges(() => props.boardId, () => past.value?.entry.revision)

// The service knows of a circuit or check once it is saved.
const known = shallowRef<{ circuit: string | undefined; check: string | undefined }>({ circuit: undefined, check: undefined })
watchEffect(() => {
  if (!props.saving) known.value = isPast.value ? { circuit: undefined, check: undefined } : { circuit: circuit.value?.id, check: check.value?.id }
})
const { data: stored, error, isFetching } = useCheck(() => props.boardId, () => known.value.check)
// What is shown belongs to older contents as long as an edit is being saved or computed.
const computing = computed(() => props.saving || isFetching.value)
const review = useReview(() => props.boardId, () => known.value.circuit, () => known.value.check)

// A run that takes longer says how far it is, and can be ended.
const progress = ref<Progress | null>(null)
let asking = 0
watch(isFetching, (busy) => {
  clearInterval(asking)
  progress.value = null
  const id = known.value.check
  if (busy && id) asking = window.setInterval(async () => (progress.value = await fetchProgress(props.boardId, id).catch(() => null)), 400)
})
onBeforeUnmount(() => clearInterval(asking))

// Trim: values are turned without being stored; what was stays behind as thin lines.
const trim = useTrim(() => props.boardId, () => known.value.check)
/** A fixture's main field is turned by the fixture's name alone, and stands on the sheet under both. */
provideTurned(computed(() => {
  const turned = Object.entries(trim.answeredFor.value).flatMap(([name, text]) => {
    const main = kinds.fixtureOf(check.value?.fixtures.find((fixture) => fixture.name === name)?.kind)?.main
    return [[name, text], ...(main ? [[`${name}.${main}`, text]] : [])]
  })
  return Object.fromEntries(turned) as Record<string, string>
}))
// What was turned on other contents is turned anew.
watch(() => stored.value?.key, () => trim.again())
if (opened) trim.turnAll(opened.values, opened.title)
const trimming = ref(Boolean(opened))
/** Whether the form of the check is open. */
const settings = ref(false)
const turned = ref('')
const quantities = useQuantities(() => props.boardId, () => known.value.check, () => trimming.value || settings.value)
/** What each part carries of what varies, as long as that is looked at. */
const watts = useWatts(() => props.boardId, () => known.value.check, () => editor.value?.shown.has('watts') ?? false)
/** What stands on the sheet: at rest, but for the watts of a check in time. */
const standing = computed(() => (result.value && watts.data.value?.axis === 'time' && !trim.active.value ? { ...result.value.at_rest, powers: watts.data.value.parts } : result.value?.at_rest))
const shares = usePartShares(() => props.boardId, () => known.value.check, () => editor.value?.shown.has('spread') ?? false)
const result = computed(() => (trim.active.value ? (trim.result.value ?? stored.value) : stored.value))
/** A panel that compares, and what it lays behind the cards. */
const comparing = ref(false)
const overlay = shallowRef<CheckView>()
const baseline = computed(() => overlay.value ?? (trim.active.value && trim.result.value ? stored.value : undefined))
function openTrim(name?: string) {
  trimming.value = true
  turned.value = name ?? (editor.value?.selectedPart && 'value' in editor.value.selectedPart ? editor.value.selectedPart.designator : turned.value)
}
async function keepTrimmed(values: Record<string, string>) {
  const at = check.value?.id ?? ''
  const words = Object.entries(values).map(([name, text]) => `${name} ${text}`).join(', ')
  await editByCore((board) => fetchTurned(board, at, values), `trimmed: ${words}`)
}

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

async function renamePart({ designator }: Part, name: string) {
  await editByCore((board) => fetchRenamed(board, designator, name), `${designator} called ${name}`)
  await nextTick()
  const symbols = Object.keys(circuit.value?.drawing?.symbols ?? {})
  editor.value?.sheet.select(symbols.filter((symbol) => symbol === name || symbol.startsWith(`${name}.`)))
}

/** The measurement whose form is open; empty for a new one. */
const measuring = ref<string | null>(null)
async function addCheck(kind: string, which = 0) {
  const id = circuit.value?.id
  if (!id) return
  trouble.value = ''
  try {
    const made = await fetchFreshCheck(props.board, id, kind, check.value?.id, false, which)
    await edit((board) => withFreshCheck(board, id, made), `${made.title} added`)
    checkId.value = made.id
    settings.value = Boolean(kinds.of(kind)?.looks || kinds.of(kind)?.main)
  } catch (problem) {
    trouble.value = problem instanceof Error ? problem.message : String(problem)
  }
}
function chooseCheck(id: string, home?: string) {
  if (home) circuitId.value = home
  checkId.value = id
}
/** The check after the one that is shown. */
function nextCheck(by: number) {
  const all = circuit.value?.checks ?? []
  const at = all.findIndex(({ id }) => id === check.value?.id)
  checkId.value = all[(at + by + all.length) % all.length]?.id ?? checkId.value
}

async function changeFixture(fixture: Fixture, next: Fixture, what: string) {
  const id = check.value?.id
  if (!id) return
  if (next.name === fixture.name) return edit((board) => withFixtureChanged(board, id, next), what)
  await editByCore((board) => fetchRenamed(board, fixture.name, next.name, id), `${fixture.name} called ${next.name}`)
  editor.value?.sheet.select([fixtureKey(next.name)])
}

/** An edit that the core makes, which knows what goes along. */
async function editByCore(make: (board: Board) => Promise<Board>, what: string) {
  const before = props.board
  const made = await make(before)
  await edit((board) => {
    if (board !== before) throw new Error('The board has changed meanwhile. Do it once more.')
    return made
  }, what)
}

/** A variant put onto the board; what only adds parts is drawn onto the sheet as it is. */
const takeVariant = (variant: VariantEntry['variant'], what: string) =>
  editByCore(async (now) => {
    const made = await fetchTaken(props.boardId, now, check.value?.id ?? '', variant)
    const [before, after] = [drawn.value, made.circuits.find(({ id }) => id === circuit.value?.id)]
    const grown = before && after && !after.drawing && book.value ? withNewcomers(before, after, book.value) : null
    return grown ? withCircuit(made, grown.id, () => grown) : made
  }, what)

// Cards.

const cards = computed((): readonly CheckCard[] => check.value?.cards ?? result.value?.cards ?? [])
const seen = computed(() => cards.value.filter(({ hidden }) => !hidden))
const hidden = computed(() => cards.value.filter((card) => card.hidden))
const activeCard = ref<string | null>(null)
const enlarged = ref<string | null>(null)
const enlargedCard = computed(() => cards.value.find(({ id }) => id === enlarged.value))
const printing = ref<string | null>(null)
watch(() => check.value?.id, () => {
  activeCard.value = enlarged.value = measuring.value = null
})

function changeCards(change: (cards: CheckCard[]) => CheckCard[], what: string) {
  const id = check.value?.id
  const now = result.value?.cards ?? []
  if (id) return safely((board) => withCards(board, id, change, now), what)
}
/** A click on a net or a pin: its trace joins the card that was used last. */
async function look(what: string) {
  const kind = kinds.of(check.value?.analysis.kind)
  if (!kind) return void (trouble.value = 'Attach a source or a supply first: there is no check to look at yet.')
  if (!kind.looks && kind.main) return void (trouble.value = 'This check shows no curves of nets or pins. Ask how one follows, or moves.')
  if (!kind.looks) return void (trouble.value = 'At rest every net’s volts stand on the sheet already. Add a sweep or a transient to see curves.')
  const expression = kind.looks.replace('{}', what)
  await changeCards((old) => withTrace(old, expression, activeCard.value), `${expression} shown`)
}
/** A measurement that was made with a cursor: its form, and its limit, are on the sheet. */
function openFromEvidence(id: string) {
  enlarged.value = null
  measuring.value = id
}
async function closeEvidence() {
  enlarged.value = null
  await nextTick()
  editor.value?.focus()
}
async function printCard(id: string | null) {
  printing.value = id
  editor.value?.sheet.select([])
  // The page is laid out as the paper is before it is printed.
  await new Promise<void>((done) => requestAnimationFrame(() => requestAnimationFrame(() => done())))
  try {
    window.print()
  } finally {
    printing.value = null
  }
}
const leadOf = (id: string, heights: readonly number[]) => {
  const card = cards.value.find((each) => each.id === id)
  const subject = card && subjectOf(card, subjectOfCheck(check.value))
  return subject ? (editor.value?.canvas?.leadOf(subject, heights) ?? null) : null
}
const moves = ref(0)
/** Where cards lie and what they speak of; their numbers move nothing. */
const laid = computed(() => JSON.stringify(seen.value.map(({ id, place, height, curves }) => [id, place, height, curves[0]?.expression])))
const moved = computed(() => [editor.value?.canvas?.seen, editor.value?.sheet.scene.value, laid.value, moves.value, trimming.value, settings.value, editor.value?.selectedPart, editor.value?.selectedFixture])

// Files.

const name = computed(() => fileName(circuit.value?.title ?? 'circuit'))
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
function look_(board: Board, entry: RevisionEntry) {
  past.value = { board, entry }
  revisions.value = false
}
async function goBack() {
  const back = past.value
  past.value = null
  if (back) await safely(() => back.board, `returned to revision ${back.entry.revision}`)
}

// Everything by name.

useCommands(() => [
  ...kinds.kinds.value.map(({ kind, title }) => ({ group: 'Check', title: `Add: ${title}`, run: () => addCheck(kind) })),
  ...(circuit.value?.checks ?? []).map(({ id, title }) => ({ group: 'Check', title: `Show ${title}`, run: () => chooseCheck(id) })),
  { group: 'Check', title: 'Next check', run: () => nextCheck(1) },
  { group: 'Check', title: 'Settings of this check', run: () => (settings.value = true) },
  ...(check.value ? [{ group: 'Check', title: 'Compare with another part or a baseline', run: () => (comparing.value = true) }] : []),
  ...(check.value ? [{ group: 'Check', title: 'Measure something', run: () => (measuring.value = '') }] : []),
  { group: 'Look', title: editor.value?.looking ? 'Draw: a click selects' : 'Look: a click shows volts or amperes', keys: 'Alt L', run: () => editor.value && (editor.value.looking = !editor.value.looking) },
  { group: 'Look', title: 'Amperes on the sheet', run: () => editor.value?.toggleShown('amperes') },
  { group: 'Look', title: 'Watts on the sheet', run: () => editor.value?.toggleShown('watts') },
  { group: 'Look', title: 'Shares of the variation on the sheet', run: () => editor.value?.toggleShown('spread') },
  { group: 'Look', title: 'The whole sheet', keys: 'Home', run: () => editor.value?.fit() },
  { group: 'Trim', title: 'Trim a value', run: () => openTrim() },
  ...(circuit.value?.parts ?? []).filter((part) => 'value' in part).map(({ designator }) => ({ group: 'Trim', title: `Trim ${designator}`, run: () => openTrim(designator) })),
  { group: 'Trim', title: 'Trim the temperature', run: () => openTrim('temperature') },
  ...cards.value.flatMap((card) => [
    ...(takesCurves(card) ? [{ group: 'Card', title: `Full size: ${card.title}`, run: () => (enlarged.value = card.id) }] : []),
    { group: 'Card', title: `${card.hidden ? 'Show' : 'Hide'} ${card.title}`, run: () => changeCards((old) => withCard(old, card.id, { hidden: !card.hidden }), card.hidden ? 'card shown' : 'card hidden') },
    { group: 'Card', title: `Print ${card.title} with the circuit`, run: () => printCard(card.id) },
  ]),
  { group: 'Card', title: 'A new card', run: () => changeCards((old) => [...old, newCard(old)], 'card added') },
  ...shown.value.circuits.map(({ id, title, checks }) => ({ group: 'Circuit', title: `Open ${title}`, run: () => { circuitId.value = id; checkId.value = checks[0]?.id } })),
  { group: 'Circuit', title: 'New circuit', run: addCircuit },
  { group: 'Circuit', title: 'Paste a netlist', run: () => (pasting.value = true) },
  { group: 'Circuit', title: 'Ready stages', run: () => editor.value?.openStages() },
  { group: 'Circuit', title: 'Revisions', run: () => (revisions.value = true) },
  { group: 'Files', title: 'Netlist, board only', run: () => saveNetlist(false) },
  { group: 'Files', title: 'Netlist with fixture', run: () => saveNetlist(true) },
  { group: 'Files', title: 'Drawing as SVG', run: () => savePicture('svg') },
  { group: 'Files', title: 'Drawing as PNG', run: () => savePicture('png') },
])
</script>

<template>
  <div ref="page" class="sheet-page" :class="{ printing, covered: enlargedCard }">
    <div class="drawing">
      <header>
        <form v-if="renaming !== null" class="renaming" @submit.prevent="rename">
          <input v-model="renaming" maxlength="120" aria-label="Name of the circuit" autofocus @keydown.esc="renaming = null" @blur="rename">
        </form>
        <h1 v-else :title="circuit?.title">{{ circuit?.title ?? 'No circuit yet' }}</h1>
        <span class="gap" />
        <PartsMenu @choose="editor?.choose($event)" @attach="editor?.chooseAttached($event)" @trouble="trouble = $event" />
        <v-btn size="small" variant="text" @click="editor?.openStages()">Stages</v-btn>
        <v-btn size="small" variant="text" title="Turn a value while the cards follow" :aria-pressed="trimming" @click="openTrim()">Trim</v-btn>
        <v-btn size="small" variant="text" title="The same check with an ideal amplifier, other models, or as the board was" :aria-pressed="comparing" @click="comparing = !comparing">Compare</v-btn>
        <v-btn size="small" variant="text" @click="pasting = true">Paste</v-btn>
        <v-menu>
          <template #activator="{ props: menu }"><v-btn size="small" variant="text" v-bind="menu">Circuit, files</v-btn></template>
          <v-list density="compact">
            <v-list-item title="New circuit" @click="addCircuit" />
            <v-list-item title="Rename this circuit" :disabled="!circuit" @click="renaming = circuit?.title ?? ''" />
            <v-list-item title="Paste a netlist" @click="pasting = true" />
            <v-list-item title="Remove this circuit" :disabled="!circuit" @click="removeCircuit" />
            <v-divider />
            <v-list-item title="Netlist, board only" @click="saveNetlist(false)" />
            <v-list-item title="Netlist with fixture" :disabled="!check" @click="saveNetlist(true)" />
            <v-list-item title="Drawing as SVG" @click="savePicture('svg')" />
            <v-list-item title="Drawing as PNG" @click="savePicture('png')" />
            <v-list-item title="Parts list (CSV)" :href="`/api/boards/${boardId}/parts-list`" />
            <v-list-item title="Whole board (JSON)" :href="`/api/boards/${boardId}/file`" />
            <v-divider />
            <v-list-item title="Revisions" @click="revisions = true" />
          </v-list>
        </v-menu>
      </header>
      <nav v-if="shown.circuits.length > 1" class="circuits" aria-label="Circuits">
        <button v-for="other in shown.circuits" :key="other.id" type="button" :aria-current="other.id === circuit?.id" @click="circuitId = other.id; checkId = other.checks[0]?.id">{{ other.title }}</button>
      </nav>
      <CheckBar v-if="circuit && !isPast" :board-id="boardId" :circuit="circuit" :check="check" :known="known" :settings="settings" @choose="chooseCheck($event)" @add="addCheck" @settings="settings = !settings" />
      <p v-if="past" class="past" role="status">
        Revision {{ past.entry.revision }}, {{ past.entry.what }}. Nothing can be changed here.
        <v-btn size="small" variant="flat" @click="goBack">Return to it</v-btn>
        <v-btn size="small" variant="text" @click="past = null">Back to the present</v-btn>
        <span v-if="changes.data.value?.length" class="since">Since then: {{ changes.data.value.slice(0, 8).join('; ') }}{{ changes.data.value.length > 8 ? `; and ${changes.data.value.length - 8} more` : '' }}.</span>
      </p>
      <v-alert v-if="trouble" type="error" variant="tonal" density="compact" :text="trouble" closable @click:close="trouble = ''" />
      <SheetEditor
        v-if="drawn && book && circuit" ref="editor" :board="shown" :circuit="drawn" :check="check" :book="book"
        :rest="error || isPast ? undefined : standing" :watts="watts.data.value" :shares="shares.data.value" :stale="computing" :edit="edit" @look="look"
      />
      <p v-else-if="circuit" class="soft">Drawing the circuit …</p>
      <div v-else class="empty">
        <p>This board has no circuit.</p>
        <v-btn @click="addCircuit">Begin one</v-btn>
      </div>
    </div>
    <aside ref="margin" aria-label="Cards">
      <template v-if="!isPast && circuit">
        <TrimPanel v-if="trimming" :quantities="quantities.data.value ?? []" :trim="trim" :chosen="turned" :keep="keepTrimmed" @choose="turned = $event" @close="trimming = false" />
        <ComparePanel v-if="comparing && circuit && check" :key="check.id" :board-id="boardId" :board="board" :revision="revision" :saving="saving" :circuit="circuit" :check="check" :result="error ? undefined : stored" :edit="edit" :take="takeVariant" @overlay="overlay = $event" @close="comparing = false" />
        <CheckForm v-if="settings && check" :board="board" :circuit="circuit" :check="check" :result="stored" :quantities="quantities.data.value ?? []" :edit="edit" @close="settings = false" @chosen="chooseCheck" />
        <MeasurementForm v-if="measuring !== null && check" :key="`${check.id} ${measuring}`" :board-id="boardId" :board="board" :circuit="circuit" :check="check" :measurement="measuring" :unit="result?.measured.find(({ id }) => id === measuring)?.unit ?? ''" :edit="edit" @close="measuring = null" />
        <FixtureForm
          v-if="editor?.selectedFixture && check" :key="editor.selectedFixture.name" :circuit="circuit" :check="check" :fixture="editor.selectedFixture"
          :change="(next, what) => changeFixture(editor?.selectedFixture as Fixture, next, what)" @close="editor?.sheet.select([])" @remove="editor?.sheet.remove()"
          @trim="openTrim"
        />
        <PartCard v-if="editor?.selectedPart" :board="board" :circuit="circuit" :part="editor.selectedPart" :rest="result?.at_rest" :change="changePart" :rename="renamePart" @trim="openTrim" />
        <p v-if="progress !== null" class="running" role="status">
          <v-progress-linear :model-value="100 * progress.done" color="secondary" height="3" /> {{ progress.ahead ? `waits for ${progress.ahead} other ${progress.ahead > 1 ? 'runs' : 'run'}` : `${Math.round(100 * progress.done)} % computed` }}
          <v-btn v-if="known.check" size="x-small" variant="text" @click="stopRun(boardId, known.check)">End it here</v-btn>
        </p>
        <MovableCard v-for="card in seen" :key="card.id" :card="card" :page="page" :margin="margin" @change="(change, what) => changeCards((old) => withCard(old, card.id, change), what)" @moving="moves += 1">
          <template #default="{ begin, onKey }">
            <component
              :is="componentOf(card)" :card="card" :result="error ? undefined : result" :baseline="baseline" :computing="computing" :active="seen.length > 1 && card.id === activeCard" :class="{ 'to-print': printing === card.id }"
              @enlarge="enlarged = card.id" @hide="changeCards((old) => withCard(old, card.id, { hidden: true }), `${card.title} hidden`)" @print="printCard(card.id)"
              @show="(expression: string) => changeCards((old) => withTrace(old, expression, null), `${expression} shown`)"
              @drop="(expression: string) => changeCards((old) => withoutTrace(old, card.id, expression), `${expression} taken off`)" @activate="activeCard = card.id"
            >
              <template #handle><h2 class="handle"><button type="button" :title="`Drag ${card.title} to move it. With keys: arrows move it, Shift arrows size it, Home puts it back`" @pointerdown="begin" @keydown="onKey">{{ card.title }}</button></h2></template>
            </component>
          </template>
        </MovableCard>
        <p v-if="hidden.length" class="soft hidden">Hidden: <button v-for="card in hidden" :key="card.id" type="button" @click="changeCards((old) => withCard(old, card.id, { hidden: false }), `${card.title} shown`)">{{ card.title }}</button></p>
        <MeasuredCard v-if="check" :board="shown" :check="check" :result="error ? undefined : result" :baseline="baseline" :computing="computing" :error="error" @open="measuring = $event" />
        <RestCard v-if="check" :check="check" :result="error ? undefined : result" :computing="computing" @show="(part) => editor?.show([part], [], [])" />
        <p v-else class="soft hint">Nothing is attached from outside yet. Type <b class="mono">source in 50</b>, <b class="mono">supply +5V 5</b> or <b class="mono">load out 10k</b>, or draw a wire from a net across the board edge.</p>
        <ReviewList
          v-if="review.data.value && circuit.parts.length" :remarks="review.data.value.remarks" :findings="review.data.value.findings"
          :computing="saving || review.isFetching.value" @show="(parts, pins, nets) => editor?.show(parts, pins, nets)"
        />
      </template>
    </aside>
    <LeaderLines v-if="!isPast && !enlargedCard" :page="page" :lead-of="leadOf" :sheet="() => editor?.canvas?.svg" :cards="seen.map(({ id }) => id)" :moved="moved" />
    <EvidenceView
      v-if="enlargedCard && circuit && check" :board-id="boardId" :board="board" :circuit="circuit" :check="check" :card="enlargedCard" :shown-cards="stored?.cards ?? []"
      :result="stored" :computing="computing" :edit="edit" @close="closeEvidence" @open="openFromEvidence"
    />
    <PasteDialog v-if="pasting" :board-id="boardId" :draw="drawPasted" @close="pasting = false" />
    <RevisionsDialog v-if="revisions" :board-id="boardId" :present="revision" @look="look_" @close="revisions = false" />
  </div>
</template>

<style scoped src="./sheetPage.css"></style>
