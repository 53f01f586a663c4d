import type { Circuit } from '@/api/client'
import type { ELK, ElkExtendedEdge, ElkNode } from 'elkjs/lib/elk-api'
import type { Block, Port } from './blocks'
import { snapped, type Point } from './geometry'

export type Elk = Pick<ELK, 'layout'>

const ROOM = 20
/** Blocks in a drawing that is put into several rows. */
const LONG = 18

/** Where each block goes, as a shift of its own coordinates. */
export async function shiftsOf(blocks: Block[], circuit: Circuit, elk: Elk): Promise<Map<string, Point>> {
  const shifts = new Map<string, Point>()
  const hung = blocks.filter((block) => block.ports.length)
  // Parts between rails, decoupling capacitors for one, have no wires: they stand in a row of their own.
  const row = blocks.filter((block) => !block.ports.length)
  let [bottom, right] = [0, 600]
  if (hung.length) {
    const graph = await elk.layout(graphOf(hung, circuit))
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

function graphOf(blocks: Block[], circuit: Circuit): ElkNode {
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
      // A long chain goes on in the next row, like writing.
      ...(blocks.length > LONG && { 'elk.layered.wrapping.strategy': 'MULTI_EDGE', 'elk.aspectRatio': '1.5' }),
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

/** Each net as edges from the pins that drive it, which look east, to the pins that take it. */
function edgesOf(blocks: Block[], circuit: Circuit): ElkExtendedEdge[] {
  const byNet = new Map<string, Port[]>()
  for (const port of blocks.flatMap((block) => block.ports)) byNet.set(port.net, [...(byNet.get(port.net) ?? []), port])
  const loads = new Set(circuit.checks.flatMap((check) => check.fixtures.filter(({ kind }) => kind === 'load').map(({ plus }) => plus)))
  return [...byNet].flatMap(([net, ports]) => {
    const drivers = ports.filter((port) => port.side === 'EAST')
    const takers = ports.filter((port) => port.side !== 'EAST')
    if (!drivers.length) drivers.push(...takers.splice(0, 1))
    if (!takers.length) takers.push(...drivers.splice(1))
    const [first, ...others] = drivers
    const pairs = takers.map((taker) => [first, taker] as const)
    const target = takers[0]
    if (target) pairs.push(...others.map((driver) => [driver, target] as const))
    return pairs.flatMap(([a, b], k) =>
      a && b
        ? [{ id: `${net}|${k}`, sources: [a.id], targets: [b.id], layoutOptions: { 'elk.layered.priority.direction': loads.has(net) ? '2' : '1' } }]
        : [],
    )
  })
}
