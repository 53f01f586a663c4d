import type { Circuit } from '@/api/client'
import type { ELK, ElkExtendedEdge, ElkNode } from 'elkjs/lib/elk-api'
import type { Block, Port } from './blocks'
import { snapped, type Point } from './geometry'
import { sideOf } from './outside'

export type Elk = Pick<ELK, 'layout'>

const ROOM = 20
/** The room that a drawing usually has on the screen; a chain that is wider goes on in a second row, like writing. */
const PAPER = { width: 640, height: 460 }

/** Where each block goes, as a shift of its own coordinates. */
export async function shiftsOf(blocks: Block[], circuit: Circuit, elk: Elk): Promise<Map<string, Point>> {
  const shifts = new Map<string, Point>()
  const hung = blocks.filter((block) => block.ports.length)
  // Parts between rails, decoupling capacitors for one, have no wires: they stand in a row of their own.
  const row = blocks.filter((block) => !block.ports.length)
  let [bottom, right] = [0, 600]
  if (hung.length) {
    const graph = await laidOut(hung, circuit, elk)
    for (const node of graph.children ?? []) {
      const block = hung.find(({ id }) => id === node.id)
      if (!block) continue
      shifts.set(block.id, { x: snapped((node.x ?? 0) - block.box.left + ROOM), y: snapped((node.y ?? 0) - block.box.top + ROOM) })
    }
    bottom = graph.height ?? 0
    right = Math.max(right, graph.width ?? 0)
  }
  let [x, y, deep] = [0, bottom + 40, 0]
  for (const block of row) {
    const width = block.box.right - block.box.left
    if (x > 0 && x + width > right) [x, y, deep] = [0, y + deep + 30, 0]
    shifts.set(block.id, { x: snapped(x - block.box.left + ROOM), y: snapped(y - block.box.top + ROOM) })
    x += width + 40
    deep = Math.max(deep, block.box.bottom - block.box.top)
  }
  return shifts
}

/** In one row, or in several where everything can be drawn larger then. */
async function laidOut(blocks: Block[], circuit: Circuit, elk: Elk): Promise<ElkNode> {
  const one = await elk.layout(graphOf(blocks, circuit, false))
  if (sizeOf(one) >= 1) return one
  const several = await elk.layout(graphOf(blocks, circuit, true))
  return sizeOf(several) > 1.15 * sizeOf(one) ? several : one
}

/** How large a drawing is on the usual paper; 1 is life. */
const sizeOf = ({ width, height }: ElkNode) => Math.min(PAPER.width / (width ?? 1), PAPER.height / (height ?? 1))

function graphOf(blocks: Block[], circuit: Circuit, isWrapped: boolean): ElkNode {
  const flows = (block: Block) => block.ports.some(({ side }) => side === 'EAST')
  return {
    id: 'sheet',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      'elk.edgeRouting': 'ORTHOGONAL',
      'elk.spacing.nodeNode': '40',
      'elk.layered.spacing.nodeNodeBetweenLayers': '60',
      'elk.spacing.edgeNode': '20',
      'elk.spacing.edgeEdge': '20',
      'elk.layered.spacing.edgeNodeBetweenLayers': '20',
      'elk.layered.nodePlacement.strategy': 'BRANDES_KOEPF',
      'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
      'elk.separateConnectedComponents': 'false',
      ...(isWrapped && { 'elk.layered.wrapping.strategy': 'MULTI_EDGE', 'elk.aspectRatio': '1.5' }),
    },
    // ELK keeps the order it is given: what lies in the signal's path comes first, and so stands above what hangs from it.
    children: [...blocks.filter(flows), ...blocks.filter((block) => !flows(block))].map((block) => ({
      id: block.id,
      width: block.box.right - block.box.left,
      height: block.box.bottom - block.box.top,
      ports: block.ports.map((port) => ({
        id: port.id, width: 0, height: 0,
        x: { WEST: 0, EAST: block.box.right - block.box.left, NORTH: port.x - block.box.left, SOUTH: port.x - block.box.left }[port.side],
        y: { WEST: port.y - block.box.top, EAST: port.y - block.box.top, NORTH: 0, SOUTH: block.box.bottom - block.box.top }[port.side],
        layoutOptions: { 'elk.port.side': port.side },
      })),
      layoutOptions: { 'elk.portConstraints': 'FIXED_POS' },
    })),
    edges: edgesOf(blocks, circuit),
  }
}

/**
 * Each net as edges from the pins that drive it, which look east, to the pins that take it; through the columns that it
 * passes on its way.
 */
function edgesOf(blocks: Block[], circuit: Circuit): ElkExtendedEdge[] {
  const nets = new Set(blocks.flatMap((block) => block.ports.map(({ net }) => net)))
  const loads = new Set(circuit.checks.flatMap((check) => check.fixtures.filter((fixture) => sideOf(fixture) === 'right').map(({ plus }) => plus)))
  return [...nets].flatMap((net) => {
    const drivers: Port[] = []
    const takers: Port[] = []
    const passed: { west: Port; east: Port }[] = []
    for (const block of blocks) {
      const own = block.ports.filter((port) => port.net === net)
      const [west, east] = (['WEST', 'EAST'] as const).map((side) => own.find((port) => port.side === side))
      if (west && east) passed.push({ west, east })
      else for (const port of own) (port.side === 'EAST' ? drivers : takers).push(port)
    }
    const pairs: [Port, Port][] = []
    const [entry, exit] = [passed[0]?.west, passed.at(-1)?.east]
    passed.slice(1).forEach(({ west }, k) => pairs.push([(passed[k] as { east: Port }).east, west]))
    if (entry && exit) {
      for (const driver of drivers) pairs.push([driver, entry])
      for (const taker of takers) pairs.push([exit, taker])
    } else {
      if (!drivers.length) drivers.push(...takers.splice(0, 1))
      if (!takers.length) takers.push(...drivers.splice(1))
      const [first, ...others] = drivers
      const [target] = takers
      for (const taker of takers) if (first) pairs.push([first, taker])
      for (const driver of others) if (target) pairs.push([driver, target])
    }
    return pairs.map(([a, b], k) => ({
      id: `${net}|${k}`, sources: [a.id], targets: [b.id], layoutOptions: { 'elk.layered.priority.direction': loads.has(net) ? '2' : '1' },
    }))
  })
}
