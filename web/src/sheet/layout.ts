import type { Check, Circuit } from '@/api/client'
import type { ELK, ElkExtendedEdge, ElkNode } from 'elkjs/lib/elk-api'
import { blocksOf, railsOf } from './blocks'
import type { Block, Drawing, NetLabel, Port, Wire } from './geometry'

const MARGIN = 16
const SUPPLY_ROW = 64
const ROW_GAP = 22

/** Draw a circuit with a check's fixture around it. `elk` places the blocks and runs the wires between them. */
export async function layOut(circuit: Circuit, check: Check, elk: Pick<ELK, 'layout'>): Promise<Drawing> {
  const blocks = blocksOf(circuit, check)
  const supplies = blocks.filter((block) => block.place === 'supply')
  // Parts between rails, decoupling capacitors for one, have no wires: they stand in a row of their own.
  const row = blocks.filter((block) => block.place === 'board' && !block.ports.length)
  const rowHeight = row.length ? Math.max(...row.map((block) => block.height)) + ROW_GAP : 0
  const graph = await elk.layout(graphOf(blocks.filter((block) => block.ports.length), railsOf(check)))
  const board = graph.children?.find((child) => child.id === 'board')
  if (!board) throw new Error('the layout has no board')

  const down = supplies.length ? SUPPLY_ROW : MARGIN
  const boardBottom = (board.y ?? 0) + (board.height ?? 0) + rowHeight
  const drawing: Drawing = {
    width: (graph.width ?? 0) + 2 * MARGIN,
    height: Math.max(graph.height ?? 0, boardBottom) + down + MARGIN,
    edge: { x: (board.x ?? 0) + MARGIN, y: (board.y ?? 0) + down, width: board.width ?? 0, height: (board.height ?? 0) + rowHeight },
    symbols: [],
    texts: [],
    wires: [],
    dots: [],
    labels: [],
  }
  const placed = new Map([...(graph.children ?? []), ...(board.children ?? [])].map((node) => [node.id, node]))
  for (const block of blocks) {
    const node = placed.get(block.id)
    if (node && block.place !== 'supply') put(drawing, block, (node.x ?? 0) + MARGIN, (node.y ?? 0) + down)
  }
  let x = drawing.edge.x + 26
  for (const block of row) {
    put(drawing, block, x, boardBottom + down - block.height - ROW_GAP)
    x += block.width + ROW_GAP
  }
  supplies.forEach((block, k) => put(drawing, block, drawing.edge.x + 8 + k * (block.width + 12), 12))
  for (const edge of graph.edges ?? []) {
    const net = String(edge.id).split('|')[0] ?? ''
    for (const section of edge.sections ?? []) {
      const points = [section.startPoint, ...(section.bendPoints ?? []), section.endPoint]
      drawing.wires.push({ net, points: points.map(({ x, y }) => ({ x: x + MARGIN, y: y + down })) })
    }
    for (const { x, y } of edge.junctionPoints ?? []) drawing.dots.push({ x: x + MARGIN, y: y + down })
  }
  drawing.labels.push(...labelsFor(drawing.wires, drawing.labels))
  return drawing
}

function put(drawing: Drawing, block: Block, dx: number, dy: number) {
  const moved = <T extends { x: number; y: number }>(item: T): T => ({ ...item, x: item.x + dx, y: item.y + dy })
  drawing.symbols.push(...block.symbols.map(moved))
  drawing.texts.push(...block.texts.map(moved))
  drawing.dots.push(...block.dots.map(moved))
  drawing.labels.push(...block.labels.map(moved))
  drawing.wires.push(...block.wires.map(({ net, points }) => ({ net, points: points.map(moved) })))
}

function graphOf(blocks: Block[], rails: Set<string>): ElkNode {
  const nodeOf = (block: Block): ElkNode => ({
    id: block.id,
    width: block.width,
    height: block.height,
    ports: block.ports.map((port) => ({
      id: port.id, x: port.x, y: port.y, width: 0, height: 0, layoutOptions: { 'elk.port.side': port.side },
    })),
    layoutOptions: {
      'elk.portConstraints': 'FIXED_POS',
      ...(block.place === 'source' && { 'elk.layered.layering.layerConstraint': 'FIRST' }),
      ...(block.place === 'load' && { 'elk.layered.layering.layerConstraint': 'LAST' }),
    },
  })
  const outside = blocks.filter((block) => block.place !== 'board')
  // ELK keeps the order it is given: what lies in the signal's path comes first, and so stands above what hangs from it.
  const inside = blocks.filter((block) => block.place === 'board')
  const path = inside.filter((block) => block.ports.some((port) => port.side === 'EAST'))
  const hanging = inside.filter((block) => !path.includes(block))
  return {
    id: 'root',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      'elk.hierarchyHandling': 'INCLUDE_CHILDREN',
      'elk.edgeRouting': 'ORTHOGONAL',
      'elk.json.edgeCoords': 'ROOT',
      'elk.json.shapeCoords': 'ROOT',
      'elk.padding': '[top=0,left=0,bottom=0,right=0]',
      'elk.spacing.nodeNode': '26',
      'elk.layered.spacing.nodeNodeBetweenLayers': '48',
      'elk.spacing.edgeNode': '18',
      'elk.layered.spacing.edgeNodeBetweenLayers': '18',
      'elk.layered.nodePlacement.strategy': 'NETWORK_SIMPLEX',
      'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
      'elk.separateConnectedComponents': 'false',
    },
    children: [
      ...outside.map(nodeOf),
      {
        id: 'board',
        layoutOptions: { 'elk.padding': '[top=34,left=26,bottom=26,right=26]' },
        children: [...path, ...hanging].map(nodeOf),
      },
    ],
    edges: edgesOf(blocks, rails),
  }
}

/** Each net as edges from the pins that drive it, which look east, to the pins that take it. */
function edgesOf(blocks: Block[], rails: Set<string>): ElkExtendedEdge[] {
  const byNet = new Map<string, Port[]>()
  for (const port of blocks.flatMap((block) => block.ports)) {
    if (!rails.has(port.net)) byNet.set(port.net, [...(byNet.get(port.net) ?? []), port])
  }
  return [...byNet].flatMap(([net, ports]) => {
    const drivers = ports.filter((port) => port.side === 'EAST')
    const takers = ports.filter((port) => port.side !== 'EAST')
    if (!drivers.length) drivers.push(...takers.splice(0, 1))
    if (!takers.length) takers.push(...drivers.splice(1))
    const [first, ...others] = drivers
    const pairs = takers.map((taker) => [first, taker] as const)
    const target = takers[0]
    if (target) pairs.push(...others.map((driver) => [driver, target] as const))
    return pairs.flatMap(([a, b], k) => (a && b ? [{ id: `${net}|${k}`, sources: [a.id], targets: [b.id] }] : []))
  })
}

/** A label above the longest horizontal stretch of every net that has none yet. */
function labelsFor(wires: Wire[], present: NetLabel[]): NetLabel[] {
  const done = new Set(['', ...present.map((label) => label.net)])
  const best = new Map<string, { length: number; label: NetLabel }>()
  for (const { net, points } of wires) {
    if (done.has(net)) continue
    points.slice(1).forEach((end, k) => {
      const start = points[k]
      if (!start || start.y !== end.y) return
      const length = Math.abs(end.x - start.x)
      if (length > (best.get(net)?.length ?? 0)) {
        best.set(net, { length, label: { net, anchor: 'middle', x: (start.x + end.x) / 2, y: start.y - 6 } })
      }
    })
  }
  return [...best.values()].map(({ label }) => label)
}
