<script setup lang="ts">
import type { CheckView } from '@/api/client'
import { engineering } from '@/format/engineering'
import { computed, nextTick, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { isPin, type Drawn } from './ends'
import FixtureGlyph from './FixtureGlyph.vue'
import { ghostOf } from './fragment'
import { boxOf, onGrid, plus, snapped, type Box, type Point } from './geometry'
import { fixtureKey, hitAt, inBox, type Hit } from './hits'
import { isSelected, withCarried } from './operations'
import { leadTo, type Lead } from './leading'
import { stretched } from './routing'
import RestLayer from './RestLayer.vue'
import SheetLayer from './SheetLayer.vue'
import { shifted, type Piece } from './wirePieces'
import type { SymbolBook } from './symbols'
import { useSheetKeys } from './useSheetKeys'
import { useViewport } from './useViewport'
import type { Sheet } from './useSheet'
import ValueField from './ValueField.vue'

/** The sheet itself: drawn, panned and zoomed, worked on by pointer and keys. */
const props = defineProps<{
  sheet: Sheet
  circuit: Drawn
  book: SymbolBook
  rest: CheckView['at_rest'] | undefined
  /** What each part carries of what varies. */
  shares: Readonly<Record<string, number>> | undefined
  /** Which of amperes, watts and shares of the variation stand on the sheet, besides the volts. */
  shown: ReadonlySet<string>
  /** What is shown at rest belongs to older contents than the drawing. */
  stale: boolean
  /** A click asks for a trace, and changes nothing. */
  looking: boolean
  /** Stores a value of a part ("R1") or of a fixture ("geophone.ac"); rejects with the reason. */
  change: (what: string, value: string) => Promise<void>
}>()
const emit = defineEmits<{
  type: [start: string]
  /** Switch between drawing and looking. */
  mode: []
  net: [net: string]
  /** A net's volts, a difference, or a pin's amperes are asked for. */
  look: [expression: string]
  /** A wire was drawn from a net across the board edge, to a place in the window. */
  outside: [net: string, side: 'left' | 'right' | 'top', at: Point]
}>()

const svg = useTemplateRef<SVGSVGElement>('svg')
const { sheet } = props
const scene = computed(() => sheet.scene.value)
const view = useViewport(svg, () => scene.value.bounds)
const joints = computed(() => props.circuit.drawing.joints)

// A new circuit is shown whole.
watch(
  () => props.circuit.id,
  () => nextTick(() => requestAnimationFrame(view.fit)),
)

// Dragging.

type Drag =
  | { kind: 'pan'; last: Point }
  | { kind: 'box'; from: Point; to: Point; more: boolean }
  | { kind: 'move'; from: Point; by: Point }
  | { kind: 'piece'; from: Point; by: Point; piece: Piece }
  | { kind: 'wire'; from: Point; moved: boolean; net: string }
  | { kind: 'difference'; from: Point; to: Point; net: string; pin: string }

const drag = shallowRef<Drag | null>(null)
const hover = shallowRef<Hit | null>(null)
const pointer = ref<Point | null>(null)
const keys = ref(false)

function onPointerDown(event: PointerEvent) {
  svg.value?.focus({ preventScroll: true })
  keys.value = false
  const at = view.toSheet({ x: event.clientX, y: event.clientY })
  svg.value?.setPointerCapture(event.pointerId)
  if (event.button !== 0) {
    drag.value = { kind: 'pan', last: { x: event.clientX, y: event.clientY } }
    return
  }
  if (sheet.held.value) {
    sheet.carry(at)
    return sheet.place(event.shiftKey)
  }
  const hit = hitAt(scene.value, joints.value, at)
  if (sheet.attaching.value) {
    if (hit && 'net' in hit && hit.net) sheet.attach(sheet.attaching.value, hit.net)
    else sheet.message.value = 'There is no net here. Click a pin or a wire.'
    return
  }
  if (sheet.wiring.value) return finish(hit, at)
  if ((props.looking || event.ctrlKey || event.metaKey) && hit && 'net' in hit) {
    const pin = hit.kind === 'end' && isPin(hit.end) ? hit.end : ''
    drag.value = { kind: 'difference', from: 'at' in hit ? hit.at : at, to: at, net: hit.net, pin }
    return
  }
  if (!hit) {
    drag.value = { kind: 'box', from: at, to: at, more: event.shiftKey }
    return
  }
  const movable = hit.kind === 'end' && !isPin(hit.end) && sheet.selection.value.has(hit.end)
  if (hit.kind === 'end' && !movable && !event.shiftKey) {
    sheet.begin({ end: hit.end }, hit.at)
    drag.value = { kind: 'wire', from: at, moved: false, net: hit.net }
    return
  }
  const name = hit.kind === 'item' ? hit.name : hit.kind === 'wire' ? hit.key : hit.end
  if (event.shiftKey) sheet.toggle(name)
  else if (!sheet.selection.value.has(name)) sheet.select([name])
  if (hit.kind === 'wire') {
    if (hit.net) emit('net', hit.net)
    if (event.altKey) sheet.begin({ wire: hit.key, at: hit.at }, hit.at)
    else if (!event.shiftKey) drag.value = { kind: 'piece', from: at, by: { x: 0, y: 0 }, piece: { wire: hit.key, index: hit.piece } }
    return
  }
  drag.value = { kind: 'move', from: at, by: { x: 0, y: 0 } }
}

function finish(hit: Hit | null, at: Point) {
  if (hit?.kind === 'end') sheet.end({ end: hit.end }, hit.at)
  else if (hit?.kind === 'wire') sheet.end({ wire: hit.key, at: hit.at }, hit.at)
  else sheet.end({ free: onGrid(at) }, onGrid(at))
}

// One step a frame: pointers report oftener than the screen is drawn.
let frame = 0
let latest: PointerEvent | null = null
function onPointerMove(event: PointerEvent) {
  latest = event
  frame ||= requestAnimationFrame(() => {
    frame = 0
    if (latest) follow(latest)
  })
}

function follow(event: PointerEvent) {
  const at = view.toSheet({ x: event.clientX, y: event.clientY })
  pointer.value = at
  const now = drag.value
  if (now?.kind === 'pan') {
    view.pan({ x: event.clientX - now.last.x, y: event.clientY - now.last.y })
    drag.value = { kind: 'pan', last: { x: event.clientX, y: event.clientY } }
  } else if (now?.kind === 'box' || now?.kind === 'difference') {
    drag.value = { ...now, to: at }
    if (now.kind === 'difference') hover.value = hitAt(scene.value, joints.value, at)
  }
  else if (now?.kind === 'move' || now?.kind === 'piece') {
    const by = { x: snapped(at.x - now.from.x), y: snapped(at.y - now.from.y) }
    if (by.x !== now.by.x || by.y !== now.by.y) drag.value = { ...now, by }
  } else {
    if (now?.kind === 'wire' && !now.moved && Math.hypot(at.x - now.from.x, at.y - now.from.y) > 6) drag.value = { ...now, moved: true }
    if (sheet.held.value) sheet.carry(at)
    else hover.value = hitAt(scene.value, joints.value, at)
  }
}

function onPointerUp(event: PointerEvent) {
  const now = drag.value
  drag.value = null
  const at = view.toSheet({ x: event.clientX, y: event.clientY })
  if (now?.kind === 'box') {
    const box = boxOf([now.from, at])
    if (box.right - box.left > 4 || box.bottom - box.top > 4) sheet.select(inBox(scene.value, joints.value, box), now.more)
    else {
      if (!now.more) sheet.select([])
      sheet.cursor.value = onGrid(at)
    }
  } else if (now?.kind === 'move') {
    const by = { x: snapped(at.x - now.from.x), y: snapped(at.y - now.from.y) }
    if (by.x || by.y) sheet.move(by)
  } else if (now?.kind === 'piece') {
    if (now.by.x || now.by.y) sheet.movePiece(now.piece, now.by)
  } else if (now?.kind === 'difference') seek(now, at)
  else if (now?.kind === 'wire' && now.moved) {
    const side = hitAt(scene.value, joints.value, at) ? null : sideOf(at)
    if (side && now.net) {
      sheet.giveUp()
      emit('outside', now.net, side, { x: event.clientX, y: event.clientY })
    } else finish(hitAt(scene.value, joints.value, at), at)
  }
}

/** What a click or a drag asks to see: amperes of a pin, volts of a net, or those from one net to another. */
function seek(from: { from: Point; net: string; pin: string }, at: Point) {
  const to = hitAt(scene.value, joints.value, at)
  const other = to && 'net' in to ? to.net : ''
  const moved = Math.hypot(at.x - from.from.x, at.y - from.from.y) > 12
  if (moved && other && other !== from.net) emit('look', `v(${from.net},${other})`)
  else if (!moved && from.pin) emit('look', `i(${from.pin})`)
  else if (!moved && from.net && from.net !== 'gnd') emit('look', `v(${from.net})`)
}

/** Beyond which side of the board edge a point lies. */
function sideOf({ x, y }: Point): 'left' | 'right' | 'top' | null {
  const { edge } = scene.value
  return x < edge.left ? 'left' : x > edge.right ? 'right' : y < edge.top ? 'top' : null
}

function onDoubleClick(event: MouseEvent) {
  const hit = hitAt(scene.value, joints.value, view.toSheet({ x: event.clientX, y: event.clientY }))
  if (hit?.kind === 'item') edit(hit.name.split('.')[0] ?? hit.name)
}

function onPointerCancel() {
  drag.value = null
}

// What is being dragged is drawn apart from the rest, and only its wires are led anew with every frame.

const isMoving = computed(() => drag.value?.kind === 'move' && (drag.value.by.x !== 0 || drag.value.by.y !== 0))
const moving = computed(() => (isMoving.value ? withCarried(props.circuit.drawing, sheet.selection.value) : null))
/** A wire whose piece is being dragged, as it would lie. */
const bending = computed(() => {
  const now = drag.value
  if (now?.kind !== 'piece' || (!now.by.x && !now.by.y)) return null
  const wire = scene.value.wires.find(({ key }) => key === now.piece.wire)
  return wire ? { key: wire.key, net: wire.net, points: shifted(wire.points, now.piece.index, now.by) } : null
})
const resting = computed(() => {
  const names = moving.value
  const all = scene.value
  const bent = bending.value?.key
  if (bent) return { ...all, wires: all.wires.filter(({ key }) => key !== bent) }
  if (!names) return all
  const goes = (end: string) => isSelected(end, names)
  return {
    ...all,
    symbols: all.symbols.filter(({ name }) => !names.has(name)), marks: all.marks.filter(({ id }) => !names.has(id)),
    notes: all.notes.filter(({ id }) => !names.has(id)), wires: all.wires.filter(({ ends }) => !ends.some(goes)),
  }
})
const lifted = computed(() => {
  const names = moving.value
  const all = scene.value
  if (!names) return null
  const goes = (end: string) => isSelected(end, names)
  return {
    symbols: all.symbols.filter(({ name }) => names.has(name)), marks: all.marks.filter(({ id }) => names.has(id)),
    notes: all.notes.filter(({ id }) => names.has(id)), wires: all.wires.filter(({ ends }) => ends.every(goes)),
    stretching: all.wires.filter(({ ends }) => goes(ends[0]) !== goes(ends[1])).map((wire) => ({ wire, first: goes(wire.ends[0]) })),
  }
})
const offset = computed(() => (drag.value?.kind === 'move' ? drag.value.by : { x: 0, y: 0 }))
const stretching = computed(() =>
  (lifted.value?.stretching ?? []).map(({ wire, first }) => {
    const a = wire.points[0] as Point
    const b = wire.points.at(-1) as Point
    const source = { ends: [...wire.ends] as [string, string], points: wire.points.map(({ x, y }) => [x, y] as [number, number]) }
    return { key: wire.key, net: wire.net, points: stretched(source, first ? plus(a, offset.value) : a, first ? b : plus(b, offset.value), true) }
  }),
)

const ghost = computed(() => (sheet.held.value ? ghostOf(sheet.held.value, sheet.heldAt.value, props.circuit, props.book) : null))
const wirePoints = computed(() => {
  const begun = sheet.wiring.value
  if (!begun) return []
  const to = keys.value ? sheet.cursor.value : pointer.value ? (hover.value && 'at' in hover.value ? hover.value.at : onGrid(pointer.value)) : sheet.cursor.value
  return sheet.wayTo(to)
})
const boxSelect = computed<Box | null>(() => (drag.value?.kind === 'box' ? boxOf([drag.value.from, drag.value.to]) : null))
const shownNet = computed(() => (hover.value && 'net' in hover.value ? hover.value.net : ''))

const path = (points: readonly Point[]) => (points.length > 1 ? `M${points.map(({ x, y }) => `${x} ${y}`).join('L')}` : '')
const volts = (net: string) => (props.rest && net in props.rest.voltages ? engineering(props.rest.voltages[net], 'V') : '')

/** The way from a card beside the sheet to a net or a part, in the window of the sheet. */
function leadOf(subject: { net?: string; part?: string }, heights: readonly number[]): Lead | null {
  const { width } = view.size.value
  const inSheet = (y: number) => (y - view.origin.value.y) / view.scale.value
  const lead = leadTo(scene.value, subject, (width - view.origin.value.x) / view.scale.value, heights.map(inSheet))
  return lead && { y: view.toWindow({ x: 0, y: lead.y }).y, end: view.toWindow(lead.end) }
}

const { onKeyDown } = useSheetKeys({ sheet, scene: () => scene.value, view, svg: () => svg.value, keys, edit, type: (start) => emit('type', start), stop: () => (drag.value = null), look: () => (emit('mode'), true) })

// Values in place.

const editing = ref<{ what: string; text: string; at: Point } | null>(null)

function edit(what: string) {
  const note = scene.value.notes.find(({ id }) => id === what)
  if (note) {
    editing.value = { what, text: note.text, at: view.toWindow({ x: note.box.left - 6, y: note.box.top - 6 }) }
    return
  }
  for (const text of [...scene.value.symbols.flatMap(({ texts }) => texts), ...scene.value.fixtures.flatMap(({ texts }) => texts)]) {
    if (text.part !== what) continue
    const fixture = scene.value.fixtures.find(({ texts }) => texts.includes(text))
    const field = what.split('.')[1] ?? ''
    const plain = fixture && field in fixture.fixture ? String(fixture.fixture[field as keyof typeof fixture.fixture]) : text.text === 'value?' ? '' : text.text
    editing.value = { what, text: plain, at: view.toWindow({ x: text.box.left - 6, y: text.box.top - 6 }) }
  }
}

async function closeEditor() {
  const what = editing.value?.what
  editing.value = null
  await nextTick()
  const value = [...(svg.value?.querySelectorAll<SVGGElement>('[data-part]') ?? [])].find((group) => group.dataset['part'] === what)
  ;(keys.value ? svg.value : (value ?? svg.value))?.focus({ preventScroll: true })
}

/** Show where something is: select it and bring it into view. */
function show(names: readonly string[], at?: Point) {
  const symbols = scene.value.symbols.filter(({ name }) => names.includes(name) || names.includes(name.split('.')[0] ?? ''))
  sheet.select(symbols.map(({ name }) => name))
  const place = at ?? symbols[0]?.at
  if (place) view.reveal(place)
}

const focus = () => svg.value?.focus({ preventScroll: true })
defineExpose({ focus, show, edit, svg, leadOf, seen: view.transform, fit: view.fit, zoom: view.zoom })
</script>

<template>
  <div class="canvas" :class="{ placing: sheet.held.value, wiring: sheet.wiring.value || sheet.attaching.value, looking }">
    <svg
      ref="svg" tabindex="0" role="application" :aria-label="`Drawing of ${circuit.title}`" aria-roledescription="sheet" :viewBox="view.viewBox.value"
      @pointerdown="onPointerDown" @pointermove="onPointerMove" @pointerup="onPointerUp" @pointercancel="onPointerCancel"
      @pointerleave="hover = null" @dblclick="onDoubleClick" @contextmenu.prevent @wheel.prevent="view.onWheel" @keydown="onKeyDown"
    >
      <g class="world" :transform="view.transform.value">
        <rect
          class="edge" :x="resting.edge.left" :y="resting.edge.top" rx="10"
          :width="resting.edge.right - resting.edge.left" :height="resting.edge.bottom - resting.edge.top"
        />
        <text class="edge-name" :x="resting.edge.left + 12" :y="resting.edge.top + 18">board edge</text>
        <g v-if="!moving" class="fixtures">
          <path v-for="(wire, k) in scene.fixtureWires" :key="`w${k}`" class="wire" :d="path(wire.points)" />
          <g v-for="(flag, k) in scene.flags" :key="`f${k}`">
            <path class="strokes" :d="`M${flag.x} ${flag.y}l${flag.left ? 8 : -8} -5v10Z`" />
            <text class="net-name" :x="flag.x" :y="flag.y + 18" text-anchor="middle">{{ flag.net }}</text>
          </g>
          <FixtureGlyph
            v-for="drawing in scene.fixtures" :key="drawing.fixture.name" :drawing="drawing"
            :selected="sheet.selection.value.has(fixtureKey(drawing.fixture.name))" @edit="edit"
          />
        </g>
        <SheetLayer
          :symbols="resting.symbols" :wires="resting.wires" :marks="resting.marks" :dots="moving ? [] : resting.dots" :notes="resting.notes"
          :selection="sheet.selection.value" :net="shownNet" @edit="edit"
        />
        <template v-if="!moving">
          <text
            v-for="label in scene.labels" :key="`n${label.net}`" class="net" :class="{ stale }" :x="label.x" :y="label.y"
            text-anchor="middle" :data-net-label="label.net"
          >
            <title>Net {{ label.net }}{{ stale ? ', being computed' : '' }}</title>
            <tspan v-if="!/^n\d+$/.test(label.net)" class="net-name">{{ label.net }}</tspan>
            <tspan dx="5">{{ volts(label.net) }}</tspan>
          </text>
          <RestLayer v-if="rest" :scene="scene" :rest="rest" :shares="shares" :show="shown" :stale="stale" />
          <path v-for="at in scene.misleading" :key="`x${at.x},${at.y}`" class="misleading" :d="`M${at.x - 7} ${at.y}a7 7 0 1 0 14 0a7 7 0 1 0 -14 0`">
            <title>These pins touch, but are not connected</title>
          </path>
        </template>
        <template v-if="lifted">
          <g :transform="`translate(${offset.x} ${offset.y})`">
            <SheetLayer
              :symbols="lifted.symbols" :wires="lifted.wires" :marks="lifted.marks" :dots="[]" :notes="lifted.notes" :selection="sheet.selection.value" plain
            />
          </g>
          <path v-for="wire in stretching" :key="wire.key" class="wire selected" :d="path(wire.points)" />
        </template>
        <path v-if="bending" class="wire selected" :d="path(bending.points)" />
        <g v-if="ghost" class="ghost">
          <SheetLayer :symbols="ghost.symbols" :wires="ghost.wires" :marks="ghost.marks" :dots="[]" :notes="[]" plain />
          <text v-for="note in sheet.held.value?.drawing.notes" :key="note.id" class="note" :x="sheet.heldAt.value.x" :y="sheet.heldAt.value.y">{{ note.text }}</text>
          <circle v-for="at in sheet.meets.value" :key="`${at.x},${at.y}`" class="meets" :cx="at.x" :cy="at.y" r="7" />
        </g>
        <path v-if="wirePoints.length" class="wire drawing" :d="path(wirePoints)" />
        <path v-if="drag?.kind === 'difference'" class="difference" :d="path([drag.from, drag.to])" />
        <circle v-if="hover && 'at' in hover && !sheet.held.value" class="meets" :cx="hover.at.x" :cy="hover.at.y" r="6" />
        <path v-if="keys && !sheet.held.value" class="cursor" :d="`M${sheet.cursor.value.x - 9} ${sheet.cursor.value.y}h18M${sheet.cursor.value.x} ${sheet.cursor.value.y - 9}v18`" />
        <rect
          v-if="boxSelect" class="box-select" :x="boxSelect.left" :y="boxSelect.top" :width="boxSelect.right - boxSelect.left"
          :height="boxSelect.bottom - boxSelect.top"
        />
      </g>
    </svg>
    <ValueField
      v-if="editing" :key="editing.what" :label="/^[a-z][0-9]+$/.test(editing.what) ? 'Words of the note' : `Value of ${editing.what.replace('.', ', ')}`" :text="editing.text" :limit="/^[a-z][0-9]+$/.test(editing.what) ? 2000 : 32" :left="editing.at.x" :top="editing.at.y"
      :change="(value) => change(editing?.what ?? '', value)" @close="closeEditor"
    />
  </div>
</template>

<style src="./sheet.css"></style>
