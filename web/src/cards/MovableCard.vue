<script setup lang="ts">
import type { CheckCard } from '@/api/client'
import { computed, onBeforeUnmount, ref, useTemplateRef } from 'vue'
import { isList } from './registry'

/** A frame in which a card is moved and sized: in the margin's column, or anywhere on the page once it was taken out. */
const props = defineProps<{
  card: CheckCard
  /** The page that it moves on, and the margin into which it goes back. */
  page: HTMLElement | null
  margin: HTMLElement | null
}>()
const emit = defineEmits<{ change: [change: Partial<CheckCard>, what: string]; moving: [] }>()

/** The page's letters may be larger than usual, and cards with them. */
const letters = parseFloat(getComputedStyle(document.documentElement).fontSize) / 16 || 1
const COLUMN = 352 * letters
/** Of curves. */
const HEIGHT = 286 * letters
const frame = useTemplateRef<HTMLDivElement>('frame')
/** What it is being moved or sized to, before that is stored. */
const live = ref<{ x: number; y: number; width: number; height: number } | null>(null)
const floats = computed(() => live.value !== null || Boolean(props.card.place))
const box = computed(() => live.value ?? { x: props.card.place?.x ?? 0, y: props.card.place?.y ?? 0, width: props.card.width ?? COLUMN, height: props.card.height ?? HEIGHT })
const style = computed(() =>
  floats.value && (props.card.place || drag?.kind === 'move')
    ? { position: 'absolute' as const, left: `${box.value.x}px`, top: `${box.value.y}px`, width: `${box.value.width}px`, height: `${box.value.height}px`, zIndex: 3 }
    : isList(props.card) && props.card.height == null && !live.value ? {} : { height: `${box.value.height}px` },
)

let drag: { kind: 'move' | 'size'; from: { x: number; y: number }; start: { x: number; y: number; width: number; height: number }; moved: boolean } | null = null

function begin(kind: 'move' | 'size', event: PointerEvent) {
  if (event.button !== 0 || !frame.value || !props.page) return
  const own = frame.value.getBoundingClientRect()
  const page = props.page.getBoundingClientRect()
  drag = { kind, from: { x: event.clientX, y: event.clientY }, start: { x: own.left - page.left, y: own.top - page.top, width: own.width, height: own.height }, moved: false }
  window.addEventListener('pointermove', follow)
  window.addEventListener('pointerup', end, { once: true })
}
function follow(event: PointerEvent) {
  if (!drag) return
  const by = { x: event.clientX - drag.from.x, y: event.clientY - drag.from.y }
  if (!drag.moved && Math.hypot(by.x, by.y) < 5) return
  drag.moved = true
  const { start } = drag
  live.value = drag.kind === 'move'
    ? { ...start, x: start.x + by.x, y: Math.max(start.y + by.y, 0) }
    : { ...start, width: Math.max(start.width + by.x, 220), height: Math.max(start.height + by.y, 110) }
  emit('moving')
}
function end(event: PointerEvent) {
  window.removeEventListener('pointermove', follow)
  const now = drag
  drag = null
  const to = live.value
  live.value = null
  if (!now?.moved || !to) return
  const margin = props.margin?.getBoundingClientRect()
  const home = margin && event.clientX > margin.left && event.clientX < margin.right
  if (now.kind === 'size') store(props.card.place ? { width: to.width, height: to.height } : { height: to.height }, 'sized')
  else if (home) store({ place: null, width: null }, 'put back into the margin')
  else store({ place: { x: to.x, y: to.y }, width: to.width, height: to.height }, 'moved')
}
onBeforeUnmount(() => window.removeEventListener('pointermove', follow))
const store = (change: Partial<CheckCard>, what: string) => emit('change', change, `${props.card.title} ${what}`)

const WAYS: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }
function onKey(event: KeyboardEvent) {
  const way = WAYS[event.key]
  if (event.key === 'Home') store({ place: null, width: null }, 'put back into the margin')
  else if (way && frame.value && props.page) {
    const own = frame.value.getBoundingClientRect()
    const page = props.page.getBoundingClientRect()
    const [dx, dy] = way
    if (event.shiftKey) store({ width: Math.max(own.width + 20 * dx, 220), height: Math.max(own.height + 20 * dy, 110) }, 'sized')
    else store({ place: { x: own.left - page.left + 20 * dx, y: Math.max(own.top - page.top + 20 * dy, 0) }, width: own.width, height: own.height }, 'moved')
  } else return
  event.preventDefault()
}
</script>

<template>
  <div ref="frame" class="movable" :class="{ floats: card.place }" :style="style">
    <slot :begin="(event: PointerEvent) => begin('move', event)" :on-key="onKey" />
    <span class="corner" aria-hidden="true" title="Drag to size it" @pointerdown.stop="begin('size', $event)" />
  </div>
</template>

<style scoped>
.movable {
  flex: none;
  position: relative;
}

.floats {
  box-shadow: 0 2px 10px color-mix(in srgb, var(--ink-text) 16%, transparent);
}

.corner {
  border-bottom: 2px solid var(--ink-soft);
  border-right: 2px solid var(--ink-soft);
  bottom: 3px;
  cursor: nwse-resize;
  height: 9px;
  opacity: 0.5;
  position: absolute;
  right: 3px;
  touch-action: none;
  width: 9px;
}

@media print {
  .corner {
    display: none;
  }
}
</style>
