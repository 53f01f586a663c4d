<script setup lang="ts">
import { RequestProblem, type Board, type Check, type CheckView, type Choice, type Fixture, type PartShares, type StageComputed, type Watts } from '@/api/client'
import { useKinds } from '@/experiments/useKinds'
import { engineering, percent } from '@/format/engineering'
import type { Change } from '@/stores/useEditing'
import { valuePath, withValue } from '@/stores/edits'
import { mdiCrosshairsGps, mdiFlipHorizontal, mdiKeyboardOutline, mdiMinus, mdiPlus, mdiRotateRight, mdiTrashCanOutline } from '@mdi/js'
import { withBench } from '@/experiments/checkEdits'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { arranged } from './arrange'
import type { Drawn } from './ends'
import { fixturePath, withFixtureField } from './fixing'
import { ofCircuit } from './fragment'
import type { Point } from './geometry'
import { fixtureKey } from './hits'
import KeysDialog from './KeysDialog.vue'
import { fragmentOf } from './placing'
import { wireKey } from './routing'
import SheetCanvas from './SheetCanvas.vue'
import StageDialog from './StageDialog.vue'
import type { SymbolBook } from './symbols'
import TypeLine from './TypeLine.vue'
import { useSheet } from './useSheet'

/** A circuit being drawn: the sheet, the line one types in, and the tools for what is selected. */
const props = defineProps<{
  board: Board
  circuit: Drawn
  check: Check | undefined
  book: SymbolBook
  rest: CheckView['at_rest'] | undefined
  stale: boolean
  /** What the check's power comes from and goes to, where that is known. */
  watts: Watts | undefined
  /** How much of what varies each part carries; null where no study tells. */
  shares: PartShares | null | undefined
  edit: (change: Change, what: string) => Promise<void>
}>()

const emit = defineEmits<{ look: [expression: string] }>()

const sheet = useSheet({
  board: () => props.board,
  circuit: () => props.circuit,
  check: () => props.check,
  book: () => props.book,
  edit: (change, what) => props.edit(change, what),
})
const canvas = useTemplateRef<InstanceType<typeof SheetCanvas>>('canvas')
const line = useTemplateRef<InstanceType<typeof TypeLine>>('line')
const stage = ref<string | null>(null)
const keys = ref(false)
/** A net that was clicked and can be named. */
const net = ref('')
const naming = ref('')
watch(() => props.circuit.id, () => ((net.value = ''), sheet.giveUp(), sheet.select([])))

function choose(choice: Choice) {
  const fragment = fragmentOf(choice)
  const [part] = fragment?.parts ?? []
  if (fragment && part && Object.keys(choice.nets ?? {}).length) sheet.placeOn(part, fragment.spreads, choice.nets ?? {})
  else if (fragment) {
    sheet.hold(fragment)
    if (choice.text && choice.what !== 'note') sheet.placeAt(choice.text)
  } else if (choice.what === 'stage') {
    stage.value = choice.key
    return
  } else if (choice.what === 'wire') sheet.wireNamed(...(choice.text.split(' ') as [string, string]))
  else if (choice.fixture) sheet.attach(choice.fixture, choice.net)
  canvas.value?.focus()
}

const isBlank = computed(() => !props.circuit.parts.length && !props.circuit.checks.length)
async function placeStage(computed: StageComputed, title: string, withItsBench: boolean) {
  stage.value = null
  const { default: Elk } = await import('elkjs/lib/elk.bundled.js')
  const circuit = await arranged({ id: 'stage', title, parts: computed.parts, checks: [], definitions: '', drawing: null }, props.book, new Elk())
  sheet.hold(ofCircuit(circuit))
  if (withItsBench && computed.bench) {
    sheet.place()
    await props.edit((board) => withBench(board, props.circuit.id, computed), `bench of ${title.toLowerCase()}`).catch((error: unknown) => (sheet.message.value = error instanceof Error ? error.message : String(error)))
    await nextTick()
    canvas.value?.fit()
  }
  canvas.value?.focus()
}

async function change(what: string, value: string) {
  const { id } = props.circuit
  const check = props.check?.id ?? ''
  if (props.circuit.drawing.notes.some((note) => note.id === what)) {
    const words = (notes: typeof props.circuit.drawing.notes) => notes.map((note) => (note.id === what ? { ...note, text: value } : note))
    if (!value.trim()) throw new Error('Write some words, or remove the note.')
    sheet.apply((circuit) => ({ ...circuit, drawing: { ...circuit.drawing, notes: words(circuit.drawing.notes) } }), 'note changed')
    return
  }
  const isFixture = what.includes('.')
  try {
    await props.edit(
      (board) => (isFixture ? withFixtureField(board, check, what, value) : withValue(board, what, value)),
      isFixture ? `${what.replace('.', ', ')}: ${value}` : `${what} set to ${value}`,
    )
  } catch (problem) {
    const path = isFixture ? fixturePath(props.board, id, check, what) : valuePath(props.board, what)
    const fault = problem instanceof RequestProblem && problem.fault(path)
    throw fault ? new Error(fault) : problem
  }
}

// What is seen, and what is asked for.

const looking = ref(false)
const shown = ref<ReadonlySet<string>>(new Set())
const sum = (watts: Readonly<Record<string, number>>) => Object.values(watts).reduce((a, b) => a + b, 0)
/** What can stand on the sheet besides volts. */
const LAYERS = [
  ['amperes', 'Amperes', 'Amperes into pins, at rest'],
  ['watts', 'Watts', 'Watts that parts take: on average over a run in time, else at rest'],
  ['spread', 'Spread', 'How much of the variation each part carries'],
] as const
function toggleShown(what: string) {
  const next = new Set(shown.value)
  if (!next.delete(what)) next.add(what)
  shown.value = next
}

/** A wire that was drawn across the board edge asks what stands there. */
type Side = 'left' | 'right' | 'top'
const crossing = ref<{ net: string; side: Side; at: Point } | null>(null)
function onOutside(name: string, side: Side, at: Point) {
  crossing.value = { net: name, side, at }
}
const { attachments } = useKinds()
/** Those that are drawn on that side first. */
const attachmentsFor = (side: Side) => [...attachments.value].sort((a, b) => Number(b.side === side) - Number(a.side === side))
function attachTo(fixture: Fixture) {
  const net = crossing.value?.net
  crossing.value = null
  if (net) sheet.select([fixtureKey(sheet.attach(fixture, net))])
  canvas.value?.focus()
}

/** The fixture that is selected, where it is one alone. */
const selectedFixture = computed(() => {
  const [name, another] = [...sheet.selection.value]
  return name && !another ? props.check?.fixtures.find((fixture) => fixtureKey(fixture.name) === name) : undefined
})

function onNet(name: string) {
  net.value = name
  naming.value = /^n\d+$/.test(name) ? '' : name
}

function rename() {
  const wanted = naming.value.trim()
  if (wanted && wanted !== net.value && sheet.rename(net.value, wanted)) net.value = wanted
  canvas.value?.focus()
}

/** Show what a remark of the review speaks of. */
function show(parts: string[], pins: string[], nets: string[]) {
  const pin = sheet.scene.value.symbols.flatMap((symbol) => symbol.pins).find(({ end }) => pins.includes(end))
  canvas.value?.show(parts, pin)
  if (!parts.length && nets.length) {
    const wires = sheet.scene.value.wires.filter((wire) => nets.includes(wire.net))
    sheet.select(wires.map(({ key }) => key))
  }
  canvas.value?.focus()
}

/** The one part that is selected, where it is one. */
const selectedPart = computed(() => {
  const names = new Set([...sheet.selection.value].filter((name) => /^[A-Z]/.test(name) && !name.includes('|')).map((name) => name.split('.')[0]))
  const [name] = names
  return names.size === 1 ? props.circuit.parts.find((part) => part.designator === name) : undefined
})

const hasWire = () => [...sheet.selection.value].some((name) => props.circuit.drawing.wires.some((wire) => wireKey(wire) === name))
function chooseAttached(fixture: Fixture) {
  sheet.giveUp()
  sheet.attaching.value = fixture
  canvas.value?.focus()
}

defineExpose({ selectedPart, selectedFixture, looking, shown, toggleShown, choose, chooseAttached, show, focus: () => canvas.value?.focus(), fit: () => canvas.value?.fit(), canvas, sheet, openStages: () => (stage.value = 'follower') })
</script>

<template>
  <div class="sheet-editor">
    <div class="paper">
      <SheetCanvas
        ref="canvas" :sheet="sheet" :circuit="circuit" :book="book" :rest="rest" :shown="shown" :shares="shares?.shares" :stale="stale" :looking="looking"
        :change="change" @type="line?.open($event)" @net="onNet" @look="emit('look', $event)" @mode="looking = !looking" @outside="onOutside"
      />
      <v-menu v-if="crossing" model-value :target="[crossing.at.x, crossing.at.y]" @update:model-value="crossing = null">
        <v-list density="compact" :aria-label="`Attach to ${crossing.net}`">
          <v-list-subheader>Attach to {{ crossing.net }}</v-list-subheader>
          <v-list-item v-for="each in attachmentsFor(crossing.side)" :key="each.key" :title="each.title" @click="attachTo(each.fixture)" />
        </v-list>
      </v-menu>
      <p v-if="!circuit.parts.length && !sheet.held.value" class="blank">
        A blank sheet. Type <b class="mono">r 1k in out</b> and press Enter, take a ready stage, or paste a netlist.
      </p>
      <div class="corner" role="toolbar" aria-label="View">
        <div class="modes" role="toolbar" aria-label="What a click does and what is shown">
          <button type="button" :aria-pressed="looking" title="A click shows a net's volts or a pin's amperes; drag from net to net for a difference (Alt L, or hold Ctrl)" @click="looking = !looking">Look</button>
          <button v-for="[what, title, hint] in LAYERS" :key="what" type="button" :aria-pressed="shown.has(what)" :title="hint" @click="toggleShown(what)">{{ title }}</button>
        </div>
        <v-btn :icon="mdiPlus" size="x-small" variant="text" title="Larger (Ctrl wheel)" aria-label="Larger" @click="canvas?.zoom(1.25)" />
        <v-btn :icon="mdiMinus" size="x-small" variant="text" title="Smaller (Ctrl wheel)" aria-label="Smaller" @click="canvas?.zoom(0.8)" />
        <v-btn :icon="mdiCrosshairsGps" size="x-small" variant="text" title="Whole sheet (Home)" aria-label="Whole sheet" @click="canvas?.fit()" />
        <v-btn :icon="mdiKeyboardOutline" size="x-small" variant="text" title="What the keys do" aria-label="What the keys do" @click="keys = true" />
      </div>
      <p v-if="sheet.message.value" class="message" role="alert">{{ sheet.message.value }}</p>
      <p v-else-if="sheet.note.value" class="message hint" role="status">{{ sheet.note.value }}</p>
      <p v-else-if="sheet.held.value" class="message hint">Move it with the pointer or the arrows. Enter or a click puts it down, Space turns it, Esc lets go.</p>
      <p v-else-if="sheet.attaching.value" class="message hint">Click the net that the {{ sheet.attaching.value.name }} is attached to; Esc gives up.</p>
      <p v-else-if="sheet.wiring.value" class="message hint">Click or press Enter on a pin or a wire to end it, on the paper for a corner; Esc gives up.</p>
      <p v-else-if="shown.has('watts') && watts?.axis === 'time'" class="message hint" role="status">Watts on average over the run: {{ engineering(sum(watts.given), 'W', 3) }} given<template v-if="watts.efficiency != null">, {{ engineering(sum(watts.taken), 'W', 3) }} into loads: {{ percent(watts.efficiency, 3) }} efficiency</template></p>
      <p v-else-if="shown.has('spread')" class="message hint" role="status">{{ shares ? `Of the variance of ${shares.measurement}, by ${shares.study}; R² = ${shares.explained.toFixed(2)}` : 'No study has drawn units of this check yet: run a Monte Carlo under Studies.' }}</p>
    </div>
    <div class="bar">
      <TypeLine ref="line" class="typing" @choose="choose" @leave="canvas?.focus()" />
      <div v-if="sheet.selection.value.size" class="tools" role="toolbar" aria-label="What is selected">
        <v-btn :icon="mdiRotateRight" size="small" variant="text" title="Turn (Space)" aria-label="Turn" @click="sheet.turn()" />
        <v-btn :icon="mdiFlipHorizontal" size="small" variant="text" title="Mirror (Shift Space)" aria-label="Mirror" @click="sheet.mirror()" />
        <v-btn v-if="sheet.selection.value.size > 1" size="small" variant="text" title="Bring onto one height" @click="sheet.align('row')">In a row</v-btn>
        <v-btn v-if="sheet.selection.value.size > 1" size="small" variant="text" title="Bring below each other" @click="sheet.align('column')">In a column</v-btn>
        <v-btn v-if="hasWire() || sheet.selection.value.size" size="small" variant="text" title="Lead the wires anew" @click="sheet.reroute()">Tidy wires</v-btn>
        <v-btn :icon="mdiTrashCanOutline" size="small" variant="text" title="Remove (Delete)" aria-label="Remove" @click="sheet.remove()" />
      </div>
      <form v-if="net && net !== 'gnd' && sheet.selection.value.size" class="naming" @submit.prevent="rename">
        <label>Net <input v-model="naming" class="mono" maxlength="32" :placeholder="net" aria-label="Name of the net" @keydown.esc="net = ''"></label>
      </form>
    </div>
    <StageDialog v-if="stage !== null" :chosen="stage" :blank="isBlank" @place="placeStage" @close="stage = null" />
    <KeysDialog v-if="keys" @close="keys = false" />
  </div>
</template>

<style scoped>
.sheet-editor {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  height: 100%;
  min-height: 0;
}

.paper {
  contain: strict;
  min-height: 0;
  overflow: hidden;
  position: relative;
}

.modes {
  display: flex;
  gap: 2px;
  margin-right: 6px;
}

.modes button {
  border: 1px solid transparent;
  border-radius: var(--corner);
  color: var(--ink-soft);
  font-size: var(--size-small);
  padding: 2px 7px;
}

.modes button[aria-pressed='true'] {
  background: color-mix(in srgb, var(--accent) 14%, transparent);
  border-color: var(--accent);
  color: var(--ink-text);
}

.blank {
  color: var(--ink-soft);
  left: 50%;
  margin: 0;
  pointer-events: none;
  position: absolute;
  text-align: center;
  top: 42%;
  transform: translateX(-50%);
  width: 340px;
}

.corner {
  align-items: center;
  background: color-mix(in srgb, var(--paper) 85%, transparent);
  bottom: 6px;
  display: flex;
  position: absolute;
  right: 8px;
}

.message {
  background: var(--paper-raised);
  border: 1px solid var(--breaks);
  border-radius: var(--corner);
  bottom: 44px;
  color: var(--breaks);
  font-size: var(--size-small);
  left: 8px;
  margin: 0;
  max-width: 70%;
  padding: 4px 10px;
  position: absolute;
}

.message.hint {
  border-color: var(--rule);
  color: var(--ink-soft);
}

.bar {
  align-items: center;
  display: flex;
  gap: 10px;
  min-height: 40px;
  padding-top: 6px;
}

.typing {
  flex: 1;
  min-width: 0;
}

.tools {
  align-items: center;
  display: flex;
}

.naming input {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  padding: 5px 8px;
  width: 110px;
}
</style>
