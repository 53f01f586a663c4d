<script setup lang="ts">
import { computed } from 'vue'
import type { Mark, SheetNote } from './ends'
import type { Point } from './geometry'
import MarkGlyph from './MarkGlyph.vue'
import type { SceneSymbol, SceneText } from './pieces'
import SymbolGlyph from './SymbolGlyph.vue'

/** Wires, joints, symbols, marks and notes, drawn; used for the sheet, and for what is being placed or dragged. */
const props = defineProps<{
  symbols: readonly SceneSymbol[]
  wires: readonly { key: string; net: string; points: Point[] }[]
  marks: readonly Mark[]
  dots: readonly Point[]
  notes: readonly (SheetNote & { lines: SceneText[] })[]
  selection?: ReadonlySet<string>
  /** A net to show by itself. */
  net?: string
  plain?: boolean
}>()
const emit = defineEmits<{ edit: [part: string] }>()

/** Where pins and marks touch, a wire has no length. */
const seen = computed(() => props.wires.filter(({ points }) => points.length > 1))
const path = (points: readonly Point[]) => `M${points.map(({ x, y }) => `${x} ${y}`).join('L')}`
</script>

<template>
  <g class="layer">
    <path
      v-for="wire in seen" :key="wire.key" v-memo="[wire, selection?.has(wire.key), net === wire.net]" class="wire"
      :class="{ selected: selection?.has(wire.key), shown: net && net === wire.net }" :data-wire="wire.key" :data-net="wire.net"
      :d="path(wire.points)"
    />
    <circle v-for="dot in dots" :key="`${dot.x},${dot.y}`" class="dot" :cx="dot.x" :cy="dot.y" r="3.4" />
    <SymbolGlyph
      v-for="symbol in symbols" :key="symbol.name" v-memo="[symbol, selection?.has(symbol.name)]" :symbol="symbol"
      :selected="selection?.has(symbol.name)" :plain="plain" @edit="emit('edit', $event)"
    />
    <MarkGlyph
      v-for="mark in marks" :key="mark.id" v-memo="[mark, selection?.has(mark.id)]" :mark="mark"
      :selected="selection?.has(mark.id)"
    />
    <g v-for="note in notes" :key="note.id" class="sheet-note" :class="{ selected: selection?.has(note.id) }" :data-note="note.id">
      <text v-for="(line, k) in note.lines" :key="k" :x="line.x" :y="line.y">{{ line.text }}</text>
    </g>
  </g>
</template>
