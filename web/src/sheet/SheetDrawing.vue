<script setup lang="ts">
import type { Check, Circuit } from '@/api/client'
import { engineering } from '@/format/engineering'
import { computed, nextTick, ref, shallowRef, useTemplateRef, watch } from 'vue'
import type { Drawing, DrawnText, Wire } from './geometry'
import { layOut } from './layout'
import SheetSymbol from './SheetSymbol.vue'

/** The circuit inside its board edge, the fixture around it, the volts on its nets, and values that can be changed. */
const props = defineProps<{
  circuit: Circuit
  check: Check
  voltages: Record<string, number> | undefined
  /** The volts belong to older contents than the drawing shows. */
  stale: boolean
  /** Stores a new value; rejects with the reason. */
  change: (part: string, value: string) => Promise<void>
}>()

const drawing = shallowRef<Drawing>()
const trouble = ref('')

watch(
  () => [props.circuit, props.check] as const,
  async ([circuit, check]) => {
    try {
      const { default: Elk } = await import('elkjs/lib/elk.bundled.js')
      const laidOut = await layOut(circuit, check, new Elk())
      if (circuit === props.circuit && check === props.check) drawing.value = laidOut
      trouble.value = ''
    } catch (error) {
      trouble.value = `The circuit could not be drawn: ${error instanceof Error ? error.message : error}`
    }
  },
  { immediate: true },
)

const path = (wire: Wire) => `M${wire.points.map(({ x, y }) => `${x} ${y}`).join('L')}`
const volts = (net: string) => (props.voltages && net in props.voltages ? engineering(props.voltages[net], 'V') : '')

/** The middle of the output net, for the card's leader line. */
const leader = computed(() => drawing.value?.labels.find((label) => label.net === props.check.output))

// Editing a value in place.
const editing = ref<DrawnText>()
const draft = ref('')
const refusal = ref('')
const saving = ref(false)
const field = useTemplateRef<HTMLInputElement>('field')

async function edit(text: DrawnText) {
  editing.value = text
  draft.value = text.text
  refusal.value = ''
  await nextTick()
  field.value?.select()
}

async function save() {
  const part = editing.value?.part
  if (!part || saving.value) return
  if (draft.value.trim() === editing.value?.text) return close()
  saving.value = true
  try {
    await props.change(part, draft.value)
    close()
  } catch (error) {
    refusal.value = error instanceof Error ? error.message : String(error)
    await nextTick()
    field.value?.focus()
  } finally {
    saving.value = false
  }
}

function close() {
  const part = editing.value?.part
  editing.value = undefined
  nextTick(() => document.querySelector<SVGGElement>(`[data-part="${part}"]`)?.focus())
}
</script>

<template>
  <div class="sheet">
    <v-alert v-if="trouble" type="error" variant="tonal">{{ trouble }}</v-alert>
    <p v-else-if="!drawing" class="soft">Drawing the circuit …</p>
    <div v-else class="canvas" :style="{ maxWidth: `${drawing.width}px` }">
      <svg
        :viewBox="`0 0 ${drawing.width} ${drawing.height}`"
        role="group"
        :aria-label="`Drawing of ${circuit.title}`"
      >
        <rect class="edge" v-bind="drawing.edge" rx="10" />
        <text class="edge-name" :x="drawing.edge.x + 14" :y="drawing.edge.y + 20">board edge</text>
        <path v-if="leader" class="leader" :d="`M${leader.x} ${leader.y - 16}V10H${drawing.width}`" />
        <path v-for="(wire, k) in drawing.wires" :key="`w${k}`" class="wire" :d="path(wire)" />
        <circle v-for="(dot, k) in drawing.dots" :key="`d${k}`" class="dot" :cx="dot.x" :cy="dot.y" r="3.2" />
        <SheetSymbol v-for="(symbol, k) in drawing.symbols" :key="`s${k}`" :symbol="symbol" />
        <template v-for="(text, k) in drawing.texts" :key="`t${k}`">
          <g
            v-if="text.part"
            class="value"
            role="button"
            tabindex="0"
            :data-part="text.part"
            :aria-label="`${text.part}, ${text.text}: change the value`"
            @click="edit(text)"
            @keydown.enter.prevent="edit(text)"
            @keydown.space.prevent="edit(text)"
          >
            <rect
              :x="text.anchor === 'middle' ? text.x - 26 : text.x - 4" :y="text.y - 14" width="52" height="20" rx="3"
            />
            <text :x="text.x" :y="text.y" :text-anchor="text.anchor">{{ text.text }}</text>
          </g>
          <text v-else :class="text.role" :x="text.x" :y="text.y" :text-anchor="text.anchor">{{ text.text }}</text>
        </template>
        <text
          v-for="label in drawing.labels" :key="`n${label.net}`" class="net" :class="{ stale }" :x="label.x" :y="label.y"
          :text-anchor="label.anchor"
        >
          <title>Net {{ label.net }}{{ stale ? ', being computed' : '' }}</title>
          <tspan class="net-name">{{ label.net }}</tspan>
          <tspan dx="5">{{ volts(label.net) }}</tspan>
        </text>
      </svg>
      <form
        v-if="editing" class="editor" :style="{ left: `${(100 * (editing.x - (editing.anchor === 'middle' ? 40 : 10))) / drawing.width}%`, top: `${(100 * (editing.y - 16)) / drawing.height}%` }"
        @submit.prevent="save"
      >
        <input
          ref="field" v-model="draft" class="mono" maxlength="32" :aria-label="`Value of ${editing.part}`"
          :aria-invalid="!!refusal" :disabled="saving" @keydown.esc.prevent.stop="close" @blur="refusal || save()"
        >
        <p v-if="refusal" role="alert">{{ refusal }}</p>
        <p v-else class="hint">Enter keeps it, Esc leaves it</p>
      </form>
    </div>
  </div>
</template>

<style scoped>
.sheet {
  overflow: auto;
}

.canvas {
  position: relative;
}

svg {
  display: block;
  width: 100%;
}

text {
  fill: var(--ink-text);
  font-size: 13px;
}

.edge {
  fill: var(--paper-raised);
  stroke: var(--ink);
  stroke-width: 1;
}

.edge-name {
  fill: var(--ink-soft);
  font-size: 11px;
  letter-spacing: 0.04em;
}

.wire {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.5;
  stroke-linejoin: round;
}

.dot {
  fill: var(--ink);
}

.leader {
  fill: none;
  stroke: var(--accent);
  stroke-dasharray: 3 4;
}

.designator {
  font-weight: 600;
}

.note {
  fill: var(--ink-soft);
  font-size: 12px;
}

text.value,
.value text {
  font-family: var(--mono);
}

g.value {
  cursor: text;
}

g.value rect {
  fill: transparent;
}

g.value:hover rect,
g.value:focus-visible rect {
  fill: color-mix(in srgb, var(--accent) 16%, transparent);
}

.net,
.designator,
text.value,
.value text,
.note {
  paint-order: stroke;
  stroke: var(--paper-raised);
  stroke-linejoin: round;
  stroke-width: 4px;
}

.net {
  fill: var(--accent);
  font-family: var(--mono);
  font-size: 11.5px;
}

.net.stale {
  opacity: 0.35;
}

.net-name {
  fill: var(--ink-soft);
}

.editor {
  background: var(--paper-raised);
  border: 1px solid var(--accent);
  border-radius: var(--corner);
  box-shadow: 0 4px 14px rgb(0 0 0 / 18%);
  padding: 2px 8px 6px;
  position: absolute;
  width: 200px;
  z-index: 2;
}

.editor input {
  background: transparent;
  border: 0;
  border-bottom: 1px solid var(--rule);
  color: var(--ink-text);
  outline: none;
  width: 100%;
}

.editor p {
  color: var(--breaks);
  font-size: var(--size-small);
  line-height: 1.35;
  margin: 4px 0 0;
}

.editor .hint {
  color: var(--ink-soft);
}
</style>
