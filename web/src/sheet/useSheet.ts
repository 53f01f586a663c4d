import type { Board, Check, Fixture, Part, Spread } from '@/api/client'
import type { Change } from '@/stores/useEditing'
import { computed, ref, shallowRef, watch } from 'vue'
import { isPin, type Drawn } from './ends'
import { copied, middleOf, mirroredDrawing, placedFragment, reachOf, turnedDrawing, type Fragment, type Placing } from './fragment'
import { GRID, gridPoints, keyOf, onGrid, plus, type Point } from './geometry'
import { freeFixtureName, withFixture, withoutFixture } from './fixing'
import { fixtureKey } from './hits'
import { placedOnNets } from './joining'
import { leavingWith } from '@/stores/leaving'
import { renamedNet } from './nets'
import { aligned, everything, mirrored, moved, removed, turned, wiresOf, withCircuit, withDrawing } from './operations'
import { freeRoom } from './room'
import { rerouted, Surroundings, wireKey } from './routing'
import { sceneOf, type Scene } from './scene'
import type { SymbolBook } from './symbols'
import { pieceAcross, pieceMoved, type Piece } from './wirePieces'
import { connected, targetAt, wayOf, type Target } from './wiring'

/** What the sheet works on. */
export interface SheetHost {
  board: () => Board
  circuit: () => Drawn
  check: () => Check | undefined
  book: () => SymbolBook
  edit: (change: Change, what: string) => Promise<void>
}

const CLIPBOARD = 'verdad-copied'

/** A place and those around it, the nearest first: how far a pin is drawn to what it can meet. */
const NEIGHBOURS: Point[] = [[0, 0], [1, 0], [-1, 0], [0, 1], [0, -1], [1, 1], [1, -1], [-1, 1], [-1, -1]].map(([x = 0, y = 0]) => ({ x: GRID * x, y: GRID * y }))

/** The state of a sheet that is being drawn on, and everything that can be done to it; pointer and keys both come here. */
export function useSheet(host: SheetHost) {
  const selection = shallowRef<ReadonlySet<string>>(new Set())
  /** What is about to be placed, and where its middle is. */
  const held = shallowRef<Fragment | null>(null)
  const heldAt = ref<Point>({ x: 300, y: 200 })
  /** A wire that has been begun: from where, and the corners set so far. */
  const wiring = shallowRef<{ from: Target; at: Point } | null>(null)
  const cursor = ref<Point>({ x: 300, y: 200 })
  /** A fixture that the next click on a net attaches to it. */
  const attaching = shallowRef<Fixture | null>(null)
  /** What was refused; and what is worth knowing of what was done. */
  const message = ref('')
  const note = ref('')

  const scene = computed<Scene>(() => sceneOf(host.circuit(), host.check(), host.book()))
  const taken = computed(() => new Set(host.board().circuits.flatMap((circuit) => circuit.parts.map((part) => part.designator))))

  // What is gone is not selected any more.
  watch(host.circuit, (circuit) => {
    const fixtures = host.check()?.fixtures.map(({ name }) => fixtureKey(name)) ?? []
    const present = new Set([...everything(circuit), ...circuit.drawing.wires.map(wireKey), ...fixtures])
    if ([...selection.value].some((name) => !present.has(name))) {
      selection.value = new Set([...selection.value].filter((name) => present.has(name)))
    }
  })

  /** Change the circuit; what is refused is said and changes nothing. Whether it was done. */
  function apply(change: (circuit: Drawn) => Drawn, what: string, spreads?: (spreads: Spread[]) => Spread[]): boolean {
    const { id, drawing } = host.circuit()
    note.value = ''
    // An edit is made when it is tried, shown and saved; the work is done once, as long as the circuit is the same.
    const made = new WeakMap<Drawn, Drawn>()
    const once = (circuit: Drawn) => {
      const next = made.get(circuit) ?? change(circuit)
      made.set(circuit, next)
      return next
    }
    try {
      // Refusals show before anything is queued.
      once(host.circuit())
      host
        .edit((board) => {
          const drawn = withDrawing(board, id, drawing)
          const next = withCircuit(drawn, id, once)
          return spreads ? { ...next, spreads: spreads(next.spreads) } : next
        }, what)
        .catch(tell)
      message.value = ''
      return true
    } catch (error) {
      tell(error)
      return false
    }
  }

  function tell(error: unknown) {
    message.value = error instanceof Error ? error.message : String(error)
  }

  // Selecting.

  function select(names: Iterable<string>, more = false) {
    selection.value = more ? new Set([...selection.value, ...names]) : new Set(names)
  }
  function toggle(name: string) {
    const next = new Set(selection.value)
    if (!next.delete(name)) next.add(name)
    selection.value = next
  }
  const selectAll = () => select(everything(host.circuit()))

  /** The symbol after (or before) the selected one, in the order of the parts. */
  function step(by: 1 | -1): Point | null {
    const { symbols } = scene.value
    if (!symbols.length) return null
    const at = symbols.findIndex(({ name }) => selection.value.has(name))
    const next = symbols[(at + by + symbols.length) % symbols.length] ?? symbols[0]
    if (!next) return null
    select([next.name])
    cursor.value = { x: next.pins[0]?.x ?? next.at.x, y: next.pins[0]?.y ?? next.at.y }
    return next.at
  }

  // Changing what is selected.

  const named = () => {
    const names = [...selection.value].filter((name) => !name.includes('|'))
    return names.length > 3 ? `${names.length} things` : names.join(', ')
  }
  /** The names are kept as they are now: a queued edit may be made again later. */
  function withSelection(change: (circuit: Drawn, names: ReadonlySet<string>) => Drawn, what: string) {
    const names = selection.value
    if (names.size) return apply((circuit) => change(circuit, names), what)
    return false
  }
  /** A piece of a wire moved by itself. */
  const movePiece = (piece: Piece, by: Point) => apply((circuit) => pieceMoved(circuit, piece, by, host.book()), 'wire moved')
  /** What is selected moved; of a wire alone, the piece that lies across the way. */
  function move(by: Point) {
    const [name, another] = selection.value
    const wire = another ? undefined : scene.value.wires.find(({ key }) => key === name)
    const index = wire && pieceAcross(wire.points, by)
    if (wire) return index !== undefined && movePiece({ wire: wire.key, index }, by)
    return moveSelected(by)
  }
  const moveSelected = (by: Point) => withSelection((circuit, names) => moved(circuit, names, by, host.book()), `${named()} moved`)
  function remove() {
    const board = host.board()
    const fixtures = host.check()?.fixtures.filter(({ name }) => selection.value.has(fixtureKey(name))).map(({ name }) => name) ?? []
    const parts = [...selection.value].filter((name) => /^[A-Z]/.test(name) && !name.includes('|')).map((name) => name.split('.')[0] ?? name)
    const check = host.check()?.id ?? ''
    const words = fixtures.join(', ') || named() || 'a wire'
    if (fixtures.length) host.edit((now) => fixtures.reduce((rest, name) => withoutFixture(rest, check, name), now), `${words} removed`).catch(tell)
    else if (!withSelection(removed, `${words} removed`)) return
    const left = leavingWith(board, new Set([...parts, ...fixtures]))
    note.value = left && `${words} removed: ${left}. Ctrl Z brings it back.`
  }
  const align = (axis: 'row' | 'column') => withSelection((circuit, names) => aligned(circuit, names, axis, host.book()), `${named()} aligned`)
  const reroute = () =>
    withSelection((circuit, names) => rerouted(circuit, host.book(), wiresOf(circuit, names)), 'wires led anew')

  /** A quarter turn of what is held, or else of what is selected; the same for mirroring. */
  function turn() {
    if (held.value) held.value = { ...held.value, drawing: turnedDrawing(held.value.drawing, middleOf(held.value.drawing)) }
    else withSelection((circuit, names) => turned(circuit, names, host.book()), `${named()} turned`)
  }
  function mirror() {
    if (held.value) held.value = { ...held.value, drawing: mirroredDrawing(held.value.drawing, middleOf(held.value.drawing)) }
    else withSelection((circuit, names) => mirrored(circuit, names, host.book()), `${named()} mirrored`)
  }

  // Holding and placing.

  function hold(fragment: Fragment) {
    wiring.value = null
    selection.value = new Set()
    held.value = fragment
    // What has pins looks for room; a sign or a note goes where one is.
    heldAt.value = fragment.parts.length ? freeRoom(host.circuit(), fragment, cursor.value, host.book()) : onGrid(cursor.value)
    message.value = ''
  }
  /** A part put onto the nets that were typed with it. */
  function placeOn(part: Part, spreads: Spread[], nets: Readonly<Record<string, string>>) {
    const [near, book, names] = [cursor.value, host.book(), taken.value]
    let placing: Placing | undefined
    const change = (circuit: Drawn) => (placing = placedOnNets(circuit, part, spreads, nets, near, names, book)).circuit
    if (!apply(change, 'placed', (present) => [...present, ...(placing?.spreads ?? [])])) return
    wiring.value = held.value = null
    select(placing?.placed ?? [])
    const [name = ''] = placing?.placed ?? []
    cursor.value = placing?.circuit.drawing.symbols[name] ?? near
  }
  /** Put down what is held; `again` keeps another one in hand. */
  function place(again = false) {
    const fragment = held.value
    if (!fragment) return
    const [at, book, names] = [heldAt.value, host.book(), taken.value]
    let placed: Set<string> = new Set()
    let more: Spread[] = []
    const change = (circuit: Drawn) => {
      const placing = placedFragment(circuit, fragment, at, names, book)
      placed = placing.placed
      more = placing.spreads
      return placing.circuit
    }
    const words = fragment.parts.length ? 'placed' : 'mark placed'
    if (!apply(change, words, (spreads) => [...spreads, ...more])) return
    select(placed)
    cursor.value = at
    if (!again) held.value = null
  }
  /** Where something could be met: pins, marks, joints, and every grid point of a wire. */
  const meetable = computed(() => {
    const wires = scene.value.wires.flatMap(({ points }) => gridPoints(points))
    return new Set([...new Surroundings(host.circuit(), host.book()).places.values(), ...wires].map(keyOf))
  })
  /** The ends of what is held, from its middle. */
  const reach = computed(() => (held.value ? reachOf(held.value, host.circuit(), host.book()) : []))
  const meetsAt = (at: Point) => reach.value.map((end) => plus(at, end)).filter((end) => meetable.value.has(keyOf(end)))
  /** Where pins of what is held would meet the sheet. */
  const meets = computed(() => meetsAt(heldAt.value))
  /** Carry what is held to a point; where a pin comes near something that it can meet, it snaps onto it. */
  function carry(at: Point) {
    const near = onGrid(at)
    const found = NEIGHBOURS.map((step) => plus(near, step)).find((place) => meetsAt(place).length) ?? near
    if (found.x !== heldAt.value.x || found.y !== heldAt.value.y) heldAt.value = found
  }

  /** Put what is held onto a pin by its name. */
  function placeAt(pin: string) {
    const places = new Surroundings(host.circuit(), host.book()).places
    const found = [...places].find(([end]) => end.toLowerCase() === pin.toLowerCase())
    if (!found) {
      held.value = null
      message.value = `There is no pin ${pin}. Pins are called R1.2 or U1.in+.`
      return
    }
    // A name stands away from its part.
    const fragment = held.value
    const [way] = new Surroundings(host.circuit(), host.book()).leaving(found[0])
    if (fragment && way === 'west') {
      const marks = fragment.drawing.marks.map((mark) => (mark.kind === 'label' ? { ...mark, turn: 2 as const } : mark))
      held.value = { ...fragment, drawing: { ...fragment.drawing, marks } }
    }
    heldAt.value = found[1]
    place()
  }

  /** Attach a fixture to a net of the circuit, and select it. */
  function attach(fixture: Fixture, net: string) {
    const { id, drawing } = host.circuit()
    const check = host.check()
    attaching.value = null
    const name = freeFixtureName(check?.fixtures ?? [], fixture.name)
    host
      .edit((board) => {
        const circuit = board.circuits.find((other) => other.id === id)
        return circuit ? withFixture(withDrawing(board, id, drawing), circuit, check?.id, { ...fixture, plus: net }) : board
      }, `${name} at ${net} added`)
      .catch(tell)
    return name
  }

  function copy(): boolean {
    if (!selection.value.size) return false
    const fragment = copied(host.circuit(), selection.value, host.board().spreads)
    localStorage.setItem(CLIPBOARD, JSON.stringify(fragment))
    return true
  }
  function cut() {
    if (copy()) remove()
  }
  /** What was copied, here or in another window. */
  function paste() {
    const text = localStorage.getItem(CLIPBOARD)
    if (!text) {
      message.value = 'Nothing has been copied yet.'
      return
    }
    try {
      hold(JSON.parse(text) as Fragment)
    } catch {
      message.value = 'What was copied cannot be read any more. Copy it once more.'
    }
  }
  function duplicate() {
    if (selection.value.size) hold(copied(host.circuit(), selection.value, host.board().spreads))
  }

  // Wiring.

  function begin(from: Target, at: Point) {
    held.value = null
    selection.value = new Set()
    wiring.value = { from, at }
    cursor.value = at
    message.value = ''
  }
  /** The way a wire would take to a point. */
  function wayTo(at: Point): Point[] {
    const begun = wiring.value
    return begun ? wayOf(host.circuit(), host.book(), begun.from, begun.at, at) : []
  }
  /** End the wire at a target; on the free sheet a corner is set and the wire goes on. */
  function end(target: Target, at: Point) {
    const begun = wiring.value
    if (!begun) return
    const book = host.book()
    const points = wayOf(host.circuit(), book, begun.from, begun.at, at)
    if (points.length < 2 && !('end' in target)) return
    let corner = ''
    const done = apply((circuit) => {
      const next = connected(circuit, begun.from, target, points)
      corner = 'free' in target ? (next.drawing.joints.at(-1)?.id ?? '') : ''
      return next
    }, 'wire drawn')
    if (!done) return
    wiring.value = corner ? { from: { end: corner }, at } : null
    cursor.value = at
  }
  /** Give up a wire; a corner that it ended in goes too. */
  function giveUp() {
    const begun = wiring.value
    wiring.value = null
    held.value = null
    attaching.value = null
    if (begun && 'end' in begun.from && !isPin(begun.from.end)) {
      const { end: id } = begun.from
      const wires = host.circuit().drawing.wires.filter(({ ends }) => ends.includes(id))
      const isJoint = host.circuit().drawing.joints.some((joint) => joint.id === id)
      if (isJoint && wires.length === 1) apply((circuit) => removed(circuit, new Set([id])), 'wire given up')
    }
  }
  /** Begin or end a wire at a point, whatever lies there. */
  function wireAt(at: Point) {
    const target = targetAt(host.circuit(), host.book(), at)
    if (wiring.value) end(target ?? { free: at }, at)
    else if (target) begin(target, at)
  }
  /** A wire between two pins by their names, such as R1.2 and U1.in+. */
  function wireNamed(from: string, to: string) {
    const surroundings = new Surroundings(host.circuit(), host.book())
    const find = (name: string) => [...surroundings.places.keys()].find((key) => key.toLowerCase() === name.toLowerCase())
    const ends = [find(from), find(to)]
    const missing = ends[0] ? to : from
    if (!ends[0] || !ends[1]) {
      message.value = `There is no pin ${missing}. Pins are called R1.2 or U1.in+.`
      return
    }
    const [a, b] = ends as [string, string]
    const book = host.book()
    apply((circuit) => rerouted(connected(circuit, { end: a }, { end: b }), book), `wire from ${a} to ${b}`)
  }

  function rename(old: string, net: string) {
    return apply((circuit) => renamedNet(circuit, old, net), `net ${old} named ${net}`)
  }

  return {
    selection, held, heldAt, wiring, attaching, attach, placeAt, carry, cursor, message, note, scene, taken, meets,
    apply, select, toggle, selectAll, step, move, movePiece, remove, align, reroute, turn, mirror, hold, place, placeOn, copy, cut, paste, duplicate,
    begin, wayTo, end, giveUp, wireAt, wireNamed, rename,
  }
}

export type Sheet = ReturnType<typeof useSheet>
