<script setup lang="ts">
import type { Point } from '@/sheet/geometry'
import type { Lead } from '@/sheet/leading'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'

/** How many heights are tried along a card's side. */
const HEIGHTS = 6

/** Lines from cards to the nets or parts that they speak of, over the whole page. */
const props = defineProps<{
  page: HTMLElement | null
  /** The way from one of some heights to a card's subject, in the window of the sheet; null where it is not on it. */
  leadOf: (card: string, heights: readonly number[]) => Lead | null
  /** The sheet's own window. */
  sheet: () => Element | null | undefined
  cards: readonly string[]
  /** Whatever moves the drawing or the cards. */
  moved: unknown
}>()

const lines = ref<{ id: string; path: string; end: Point }[]>([])

function update() {
  const page = props.page?.getBoundingClientRect()
  const sheet = props.sheet()?.getBoundingClientRect()
  if (!page || !sheet) return void (lines.value = [])
  lines.value = props.cards.flatMap((id) => {
    const card = props.page?.querySelector(`[data-card="${id}"]`)?.getBoundingClientRect()
    if (!card || card.height === 0 || card.top > page.bottom - 40) return []
    // Beside the sheet, not over what stands above it.
    const highest = Math.min(Math.max(card.top + 14, sheet.top + 8), card.bottom - 8)
    const lowest = Math.min(card.bottom - 8, sheet.bottom - 8)
    const heights = Array.from({ length: HEIGHTS }, (_, k) => highest + (k * Math.max(0, lowest - highest)) / (HEIGHTS - 1))
    const lead = props.leadOf(id, heights.map((y) => y - sheet.top))
    // What was panned out of sight has no line.
    if (!lead || lead.end.x < 0 || lead.end.y < 0 || lead.end.x > sheet.width || lead.end.y > sheet.height) return []
    const end = { x: lead.end.x + sheet.left - page.left, y: lead.end.y + sheet.top - page.top }
    const top = lead.y + sheet.top - page.top
    const [left, right] = [card.left - page.left, card.right - page.left]
    if (end.x > left && end.x < right && end.y > top - 14 && end.y < card.bottom - page.top) return []
    const start = end.x < left ? left : end.x > right ? right : (left + right) / 2
    return [{ id, path: `M${start} ${top}H${end.x}V${end.y}`, end }]
  })
}

let frame = 0
const soon = () => (frame ||= requestAnimationFrame(() => ((frame = 0), update())))
watch(() => [props.moved, props.page, props.cards.join()], soon, { flush: 'post' })
const observer = new ResizeObserver(soon)
onMounted(() => {
  soon()
  window.addEventListener('resize', soon)
  document.addEventListener('scroll', soon, true)
})
watch(() => props.page, (page) => page && observer.observe(page), { immediate: true })
onBeforeUnmount(() => {
  observer.disconnect()
  window.removeEventListener('resize', soon)
  document.removeEventListener('scroll', soon, true)
})
defineExpose({ soon })
</script>

<template>
  <svg class="leaders" aria-hidden="true">
    <g v-for="line in lines" :key="line.id">
      <path :d="line.path" />
      <circle :cx="line.end.x" :cy="line.end.y" r="2.5" />
    </g>
  </svg>
</template>

<style scoped>
.leaders {
  height: 100%;
  left: 0;
  pointer-events: none;
  position: absolute;
  top: 0;
  width: 100%;
  z-index: 2;
}

path {
  fill: none;
  stroke: var(--accent);
  stroke-dasharray: 3 4;
}

circle {
  fill: var(--accent);
}
</style>
