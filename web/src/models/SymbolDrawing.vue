<script setup lang="ts">
import type { ModelSymbol } from '@/api/client'
import { computed, ref } from 'vue'
import { drawingOf, HEIGHT, placed, WIDTH } from './symbolLayout'

/** A model's symbol with its nodes on the pins. A node is dragged onto another pin to exchange the two. */
const props = defineProps<{ symbol: ModelSymbol; nodes: readonly string[]; roles: readonly string[]; fixed?: boolean }>()
const emit = defineEmits<{ exchange: [index: number, role: string] }>()

const drawing = ref<SVGSVGElement>()
const pins = computed(() => placed(props.symbol))
const shape = computed(() => drawingOf(props.symbol))
const nodeAt = (role: string) => props.nodes[props.roles.indexOf(role)] ?? ''
const chip = (pin: { side: string; outer: [number, number] }): [number, number] => [
  pin.outer[0] + (pin.side === 'left' ? -26 : pin.side === 'right' ? 26 : 0),
  pin.outer[1] + (pin.side === 'top' ? -9 : pin.side === 'bottom' ? 9 : 0),
]

const dragged = ref<{ role: string; x: number; y: number } | null>(null)
const over = ref('')

function place(event: PointerEvent): [number, number] {
  const box = drawing.value?.getBoundingClientRect()
  return box ? [((event.clientX - box.left) / box.width) * WIDTH, ((event.clientY - box.top) / box.height) * HEIGHT] : [0, 0]
}

function lift(event: PointerEvent, role: string) {
  if (props.fixed) return
  const [x, y] = place(event)
  dragged.value = { role, x, y }
  drawing.value?.setPointerCapture(event.pointerId)
}

function move(event: PointerEvent) {
  if (!dragged.value) return
  const [x, y] = place(event)
  dragged.value = { ...dragged.value, x, y }
  const near = pins.value.find((pin) => {
    const [cx, cy] = chip(pin)
    return Math.abs(cx - x) < 34 && Math.abs(cy - y) < 18
  })
  over.value = near?.role ?? ''
}

function drop() {
  if (dragged.value && over.value && over.value !== dragged.value.role) {
    emit('exchange', props.roles.indexOf(dragged.value.role), over.value)
  }
  dragged.value = null
  over.value = ''
}
</script>

<template>
  <svg
    ref="drawing" :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" class="symbol" :class="{ fixed }" role="img"
    :aria-label="`Symbol: ${roles.map((role, k) => `node ${nodes[k]} is ${role}`).join(', ')}`"
    @pointermove="move" @pointerup="drop" @pointercancel="drop"
  >
    <g :transform="shape.transform">
      <path :d="shape.strokes" class="shape" />
      <path v-if="shape.filled" :d="shape.filled" class="shape" />
      <text v-for="{ text, x, y } in shape.signs" :key="`${x} ${y}`" class="label sign" :x="x" :y="y + 5" text-anchor="middle">{{ text }}</text>
    </g>
    <g v-for="pin in pins" :key="pin.role">
      <line :x1="pin.inner[0]" :y1="pin.inner[1]" :x2="pin.outer[0]" :y2="pin.outer[1]" class="lead" />
      <text
        v-if="!shape.transform" class="label"
        :x="pin.inner[0] + (pin.side === 'left' ? 6 : pin.side === 'right' ? -6 : 0)"
        :y="pin.inner[1] + (pin.side === 'top' ? 15 : pin.side === 'bottom' ? -7 : 4)"
        :text-anchor="pin.side === 'left' ? 'start' : pin.side === 'right' ? 'end' : 'middle'"
      >{{ pin.label }}</text>
      <g class="node" :class="{ over: over === pin.role }" @pointerdown.prevent="lift($event, pin.role)">
        <rect :x="chip(pin)[0] - 25" :y="chip(pin)[1] - 10" width="50" height="20" rx="3" />
        <text :x="chip(pin)[0]" :y="chip(pin)[1] + 4" text-anchor="middle">{{ nodeAt(pin.role).slice(0, 7) }}</text>
        <title>node {{ nodeAt(pin.role) }}: {{ pin.role }}{{ fixed ? '' : ' (drag it onto another pin)' }}</title>
      </g>
    </g>
    <g v-if="dragged" class="node ghost" pointer-events="none">
      <rect :x="dragged.x - 25" :y="dragged.y - 10" width="50" height="20" rx="3" />
      <text :x="dragged.x" :y="dragged.y + 4" text-anchor="middle">{{ nodeAt(dragged.role).slice(0, 7) }}</text>
    </g>
  </svg>
</template>

<style scoped>
.symbol {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  display: block;
  touch-action: none;
  width: 320px;
}

.shape,
.lead {
  fill: none;
  stroke: var(--ink);
  stroke-linejoin: round;
  stroke-width: 1.8;
  vector-effect: non-scaling-stroke;
}

.label {
  fill: var(--ink-text);
  font-family: var(--text);
  font-size: 12px;
}

.sign {
  font-size: 16px;
}

.node rect {
  fill: var(--paper-sunk);
  stroke: var(--ink-soft);
}

.node text {
  fill: var(--ink-text);
  font-family: var(--mono);
  font-size: 12px;
}

.symbol:not(.fixed) .node {
  cursor: grab;
}

.node.over rect,
.node.ghost rect {
  fill: var(--paper-raised);
  stroke: var(--accent);
  stroke-width: 2;
}
</style>
