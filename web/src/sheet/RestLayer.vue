<script setup lang="ts">
import type { CheckView } from '@/api/client'
import { engineering, percent } from '@/format/engineering'
import { computed } from 'vue'
import { boxOf, type Box, type Point } from './geometry'
import { markBox, textBox } from './pieces'
import type { Scene } from './scene'

/** What a circuit does at rest, on its drawing: amperes into pins, watts in parts and what parts carry of the variation on demand, and words for what stands out. */
const props = defineProps<{ scene: Scene; rest: CheckView['at_rest']; shares: Readonly<Record<string, number>> | undefined; show: ReadonlySet<string>; stale: boolean }>()

/** What words must not cover; wires are as thin as they are drawn. */
const drawn = computed(() => {
  const { symbols, labels, marks, notes, fixtures, edge } = props.scene
  const corners = [{ x: edge.left, y: edge.top }, { x: edge.right, y: edge.top }, { x: edge.right, y: edge.bottom }, { x: edge.left, y: edge.bottom }, { x: edge.left, y: edge.top }]
  const lines = [corners, ...props.scene.wires.map(({ points }) => points), ...props.scene.fixtureWires.map(({ points }) => points)]
  return [
    ...lines.flatMap((points) => points.slice(1).map((to, k) => thick(boxOf([points[k] as Point, to]), 1))),
    ...symbols.flatMap((symbol) => [symbol.body, ...symbol.texts.map(({ box }) => box)]), ...labels.map(({ box }) => box), ...marks.map(markBox), ...notes.map(({ box }) => box),
    ...fixtures.flatMap(({ texts }) => texts.map(({ box }) => box)),
  ]
})
const thick = (box: Box, by: number): Box => ({ left: box.left - by, right: box.right + by, top: box.top - by, bottom: box.bottom + by })
type Anchor = 'start' | 'middle' | 'end'
const cover = (a: Box, b: Box) => Math.max(0, Math.min(a.right, b.right) - Math.max(a.left, b.left)) * Math.max(0, Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top))
/** The place among several at which words cover the least of what is there; `before` is the room of an arrow. */
function best(text: string, places: readonly (Point & { anchor: Anchor })[], taken: Box[], before = 0) {
  const tried = places.map((place) => {
    const box = textBox(text, place.x, place.y, place.anchor, 'note')
    return { place, box: { ...box, left: box.left - (place.anchor === 'start' ? before : 0), right: box.right + (place.anchor === 'end' ? before : 0) } }
  })
  const cost = (box: Box) => taken.reduce((sum, other) => sum + cover(box, other), 0)
  const found = tried.reduce((a, b) => (cost(b.box) < cost(a.box) ? b : a))
  taken.push(found.box)
  return found.place
}

/** Units that the arrow before a current takes. */
const ARROW = 14

/** Amperes beside pins, and watts at parts. A part with two pins has the same current in both, so it says it once. */
const said = computed(() => {
  const taken = [...drawn.value]
  const words = props.rest.standings.flatMap(({ part, words: standing, why, grave }) => {
    const symbol = props.scene.symbols.find(({ name }) => name === part || name.startsWith(`${part}.`))
    if (!symbol) return []
    const text = (grave ? '! ' : '') + standing.replace(`${part}: `, '')
    const { body, box } = symbol
    const middle = (body.left + body.right) / 2
    const places = [
      { x: middle, y: box.top - 6, anchor: 'middle' as Anchor }, { x: middle, y: box.bottom + 16, anchor: 'middle' as Anchor },
      { x: body.right + 8, y: body.bottom + 14, anchor: 'start' as Anchor }, { x: body.left - 8, y: body.bottom + 14, anchor: 'end' as Anchor },
      { x: body.right + 8, y: body.top - 4, anchor: 'start' as Anchor }, { x: body.left - 8, y: body.top - 4, anchor: 'end' as Anchor },
      { x: middle, y: box.top - 24, anchor: 'middle' as Anchor }, { x: middle, y: box.bottom + 34, anchor: 'middle' as Anchor },
    ]
    return [{ key: part + standing, text, why, grave, ...best(text, places, taken) }]
  })
  const amperes = props.scene.symbols.flatMap((symbol) => {
    if (!props.show.has('amperes')) return []
    const pins = symbol.pins.length === 2 ? symbol.pins.slice(0, 1) : symbol.pins
    return pins.flatMap((pin) => {
      const value = props.rest.currents[pin.end]
      if (value === undefined) return []
      const text = engineering(Math.abs(value), 'A', 3)
      const { x, y } = pin
      const upright = pin.way === 'north' || pin.way === 'south'
      const heights = pin.way === 'north' ? [4, -12, 20, -26, 34] : pin.way === 'south' ? [6, 20, -8, 34, -22] : [14, -5, 27, -18]
      const sides = upright ? [11, -11, 24, -24] : pin.way === 'east' ? [11, 24, 40] : [-11, -24, -40]
      const beside = sides.flatMap((dx) => heights.map((dy) => ({ x: x + dx, y: y + dy, anchor: (dx > 0 ? 'start' : 'end') as Anchor })))
      return [{ key: pin.end, text, inward: value >= 0, way: pin.way, ...best(text, beside, taken, ARROW) }]
    })
  })
  const watts = props.scene.symbols.flatMap((symbol) => {
    const value = props.show.has('watts') ? props.rest.powers[symbol.name.split('.')[0] ?? ''] : undefined
    if (value === undefined) return []
    const text = engineering(value, 'W', 3)
    const { body } = symbol
    const middle = (body.left + body.right) / 2
    const places = [
      { x: middle, y: body.bottom + 30, anchor: 'middle' as Anchor }, { x: body.right + 8, y: body.bottom + 6, anchor: 'start' as Anchor }, { x: body.left - 8, y: body.bottom + 6, anchor: 'end' as Anchor },
      { x: middle, y: body.top - 20, anchor: 'middle' as Anchor }, { x: body.left - 8, y: (body.top + body.bottom) / 2, anchor: 'end' as Anchor },
    ]
    return [{ key: symbol.name, text, ...best(text, places, taken) }]
  })
  const shares = props.scene.symbols.flatMap((symbol) => {
    const value = props.show.has('spread') ? props.shares?.[symbol.name.split('.')[0] ?? ''] : undefined
    if (value === undefined || value < SMALL) return []
    const text = percent(value, 2)
    const { body } = symbol
    const [middle, height] = [(body.left + body.right) / 2, (body.top + body.bottom) / 2]
    const places = [
      { x: middle, y: body.bottom + 30, anchor: 'middle' as Anchor }, { x: body.right + 12, y: height + 5, anchor: 'start' as Anchor }, { x: body.left - 12, y: height + 5, anchor: 'end' as Anchor },
      { x: middle, y: body.top - 20, anchor: 'middle' as Anchor }, { x: middle, y: body.bottom + 46, anchor: 'middle' as Anchor }, { x: body.right + 8, y: body.bottom + 20, anchor: 'start' as Anchor },
    ]
    return [{ key: symbol.name, text, halo: { x: body.left - 4, y: body.top - 4, width: body.right - body.left + 8, height: body.bottom - body.top + 8, 'stroke-opacity': Math.max(0.15, Math.min(value, 1)) }, ...best(text, places, taken) }]
  })
  return { amperes, watts, words, shares }
})
/** What a part carries less of than this is what chance leaves of none. */
const SMALL = 0.005
/** An arrow towards the symbol, or away from it. */
const turn = { west: 0, north: 90, east: 180, south: 270 }
</script>

<template>
  <g class="rest" :class="{ stale }">
    <g v-for="{ key, text, inward, way, x, y, anchor } in said.amperes" :key="key" :data-pin-amperes="key">
      <text class="amperes" :x="x" :y="y" :text-anchor="anchor">{{ text }}</text>
      <path class="arrow" d="M-5 -3L1 0L-5 3" :transform="`translate(${x + (anchor === 'start' ? -7 : 7)} ${y - 4}) rotate(${turn[way] + (inward ? 0 : 180)})`" />
    </g>
    <text v-for="{ key, text, x, y, anchor } in said.watts" :key="key" class="watts" :x="x" :y="y" :text-anchor="anchor" :data-watts="key">{{ text }}</text>
    <g v-for="{ key, text, halo, x, y, anchor } in said.shares" :key="key" class="share" :data-share="key">
      <rect v-bind="halo" rx="5" />
      <text :x="x" :y="y" :text-anchor="anchor">{{ text }}</text>
    </g>
    <text v-for="{ key, text, why, grave, x, y, anchor } in said.words" :key="key" class="standing" :class="{ grave }" :x="x" :y="y" :text-anchor="anchor"><title>{{ why }}</title>{{ text }}</text>
  </g>
</template>
