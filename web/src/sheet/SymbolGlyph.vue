<script setup lang="ts">
import { transformOf } from './geometry'
import type { SceneSymbol } from './pieces'
import { useTurned } from './turned'

/** One symbol after IEC 60617 with its words. Values that can be changed are buttons. */
defineProps<{ symbol: SceneSymbol; selected?: boolean; plain?: boolean }>()
const emit = defineEmits<{ edit: [part: string] }>()
const turned = useTurned()

/** Signs and labels of pins stand upright however the symbol is turned. */
function upright(symbol: SceneSymbol, x: number, y: number) {
  const { at } = symbol
  let [u, v] = [at.mirrored ? -x : x, y]
  for (let k = 0; k < at.turn; k++) [u, v] = [-v, u]
  return { x: at.x + u, y: at.y + v }
}

function labelPlace(symbol: SceneSymbol, pin: SceneSymbol['pins'][number]) {
  const { body } = symbol
  switch (pin.way) {
    case 'west':
      return { x: body.left + 5, y: pin.y + 4, anchor: 'start' }
    case 'east':
      return { x: body.right - 5, y: pin.y + 4, anchor: 'end' }
    case 'north':
      return { x: pin.x, y: body.top + 13, anchor: 'middle' }
    default:
      return { x: pin.x, y: body.bottom - 5, anchor: 'middle' }
  }
}
</script>

<template>
  <g class="symbol" :class="{ selected }" :data-symbol="symbol.name">
    <g :transform="transformOf(symbol.at)">
      <path v-if="symbol.shape.filled" class="filled" :d="symbol.shape.filled" />
      <path class="strokes" :d="symbol.shape.strokes" />
    </g>
    <text
      v-for="(sign, k) in symbol.shape.signs" :key="`s${k}`" class="sign" text-anchor="middle"
      :x="upright(symbol, sign.x, sign.y).x" :y="upright(symbol, sign.x, sign.y).y + 5"
    >{{ sign.text }}</text>
    <template v-for="pin in symbol.pins" :key="pin.end">
      <text
        v-if="pin.label" class="pin-label" :x="labelPlace(symbol, pin).x" :y="labelPlace(symbol, pin).y"
        :text-anchor="labelPlace(symbol, pin).anchor as 'start'"
      >{{ pin.label }}</text>
      <circle v-if="!plain" class="pin" :data-end="pin.end" :cx="pin.x" :cy="pin.y" r="3" />
    </template>
    <template v-for="(text, k) in symbol.texts" :key="`t${k}`">
      <g
        v-if="text.part && !plain" class="value" :class="{ turned: turned[text.part] !== undefined }" role="button" tabindex="0" :data-part="text.part"
        :aria-label="`${text.part}, ${text.text}: change the value`"
        @pointerdown.stop @click.stop="emit('edit', text.part)" @keydown.enter.prevent.stop="emit('edit', text.part)"
        @keydown.space.prevent.stop="emit('edit', text.part)"
      >
        <rect :x="text.box.left - 3" :y="text.box.top - 1" :width="text.box.right - text.box.left + 6" height="17" rx="3" />
        <text :x="text.x" :y="text.y" :text-anchor="text.anchor">{{ turned[text.part] ?? text.text }}</text>
      </g>
      <text v-else :class="text.role" :x="text.x" :y="text.y" :text-anchor="text.anchor">{{ text.text }}</text>
    </template>
  </g>
</template>
