<script setup lang="ts">
import type { Quantity } from '@/api/client'
import { fetchNumber, useVocabulary } from '@/api/trials'
import { engineering, typed } from '@/format/engineering'
import { mdiChevronDown, mdiChevronUp, mdiClose } from '@mdi/js'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { fromSlider, reachOf, stepped, toSlider, type Reach } from './turning'
import type { Trim } from './useTrim'

/** Turning one value: by wheel, arrow keys, slider, or along a series; the cards follow. Keep it, or return. */
const props = defineProps<{ quantities: readonly Quantity[]; trim: Trim; chosen: string; keep: (values: Record<string, string>) => Promise<void> }>()
const emit = defineEmits<{ choose: [name: string]; close: [] }>()

const vocabulary = useVocabulary()
const series = ref('')
const steps = computed(() => vocabulary.data.value?.series[series.value])
const quantity = computed(() => props.quantities.find(({ name }) => name === props.chosen))
const value = ref(0)
const reach = ref<Reach>({ low: 0, high: 1 })
const slider = useTemplateRef<HTMLInputElement>('slider')

watch(quantity, (now, before) => {
  if (!now || (now.name === before?.name && props.trim.values.value[now.name] !== undefined)) return
  value.value = now.value
  if (now.name !== before?.name) reach.value = reachOf(now.value, now.unit)
}, { immediate: true })

function turnTo(next: number) {
  if (!quantity.value || !Number.isFinite(next)) return
  value.value = next
  const { low, high } = reach.value
  if (next < low || next > high) reach.value = { low: Math.min(low, next), high: Math.max(high, next) }
  props.trim.turn(quantity.value.name, typed(next))
}
const step = (by: number, fine = false) => turnTo(stepped(value.value, by, steps.value, fine, reach.value))

function onWheel(event: WheelEvent) {
  step(event.deltaY < 0 ? 1 : -1, event.shiftKey)
}
function onKey(event: KeyboardEvent) {
  const by = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 10, PageDown: -10 }[event.key]
  if (by) {
    event.preventDefault()
    step(by, event.shiftKey)
  } else if (event.key === 'Enter') {
    event.preventDefault()
    void store()
  } else if (event.key === 'Escape') {
    event.stopPropagation()
    back()
  }
}

const refusal = ref('')
async function store() {
  refusal.value = ''
  try {
    await props.keep(props.trim.values.value)
    props.trim.clear()
  } catch (error) {
    refusal.value = error instanceof Error ? error.message : String(error)
  }
}
function back() {
  props.trim.clear()
  if (quantity.value) value.value = quantity.value.value
}
const shown = computed(() => engineering(value.value, quantity.value?.unit ?? ''))
async function ends(end: 'low' | 'high', event: Event) {
  refusal.value = ''
  const field = event.target as HTMLInputElement
  try {
    const next = { ...reach.value, [end]: await fetchNumber(field.value, quantity.value?.unit ?? '') }
    if (!(next.low < next.high)) throw new Error('The lower end of the slider lies below the upper one.')
    reach.value = next
  } catch (error) {
    refusal.value = error instanceof Error ? error.message : String(error)
  }
}
defineExpose({ focus: () => slider.value?.focus() })
</script>

<template>
  <section class="trim" aria-label="Trim" @wheel.prevent="onWheel">
    <header>
      <h2>Trim</h2>
      <select :value="chosen" aria-label="What is turned" @change="emit('choose', ($event.target as HTMLSelectElement).value)">
        <option v-if="!quantity" value="" disabled>choose a value</option>
        <option v-for="each in quantities" :key="each.name" v-memo="[each.name]" :value="each.name">{{ each.name }}</option>
      </select>
      <span class="gap" />
      <v-btn :icon="mdiClose" size="x-small" variant="text" title="Close; what was turned returns" aria-label="Close trim" @click="back(); emit('close')" />
    </header>
    <p v-if="trim.origin.value" class="origin">{{ trim.origin.value }} <small class="soft">{{ Object.keys(trim.values.value).length }} values are its own; thin lines are the board as drawn</small>
      <v-btn v-if="!quantity" size="small" variant="text" @click="back">Return</v-btn>
    </p>
    <template v-if="quantity">
      <div class="now">
        <button type="button" aria-label="One step down" title="One step down (wheel, arrow)" @click="step(-1)"><v-icon :icon="mdiChevronDown" /></button>
        <output class="mono" :aria-label="`${quantity.name} now`">{{ shown }}</output>
        <button type="button" aria-label="One step up" title="One step up (wheel, arrow)" @click="step(1)"><v-icon :icon="mdiChevronUp" /></button>
        <small v-if="trim.active.value" class="soft">was <span class="mono">{{ engineering(quantity.value, quantity.unit) }}</span></small>
        <span class="gap" />
        <select v-model="series" aria-label="Steps">
          <option value="">2 % a step</option>
          <option v-for="(_, name) in vocabulary.data.value?.series ?? {}" :key="name" :value="name">{{ name }}</option>
        </select>
      </div>
      <input
        ref="slider" type="range" min="0" max="1000" :value="toSlider(value, reach)" :aria-label="`${quantity.name} by slider`" :aria-valuetext="shown"
        @input="turnTo(fromSlider(Number(($event.target as HTMLInputElement).value), reach))" @keydown="onKey"
      >
      <div class="ends">
        <input class="mono" :value="typed(reach.low)" aria-label="Lower end of the slider" @change="ends('low', $event)">
        <span class="gap soft">{{ quantity.unit }}</span>
        <input class="mono" :value="typed(reach.high)" aria-label="Upper end of the slider" @change="ends('high', $event)">
      </div>
      <p v-if="trim.trouble.value || refusal" class="wrong" role="alert">{{ refusal || trim.trouble.value }}</p>
      <div class="actions">
        <v-btn size="small" :disabled="!trim.active.value" title="Store what was turned (Enter)" @click="store">Keep</v-btn>
        <v-btn size="small" variant="text" :disabled="!trim.active.value" title="Back to what it was (Esc)" @click="back">Return</v-btn>
        <small v-if="trim.busy.value" class="soft">computing</small>
      </div>
    </template>
    <p v-else class="soft">Choose what to turn: a part’s value, a source, a model’s parameter, the temperature.</p>
  </section>
</template>

<style scoped>
.trim {
  background: var(--paper-raised);
  border: 1px solid var(--accent);
  border-radius: var(--corner);
  flex: none;
  padding: 8px 12px;
}

.origin {
  font-size: 0.8125rem;
  margin: 2px 0;
}

.origin small {
  display: block;
}

header,
.now,
.ends {
  align-items: center;
  display: flex;
  gap: 8px;
}

.gap {
  flex: 1;
  text-align: center;
}

select,
.ends input {
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  color: inherit;
  font-size: 0.8125rem;
  max-width: 170px;
  padding: 2px 4px;
}

.ends input {
  width: 84px;
}

output {
  font-size: 1.125rem;
  min-width: 92px;
  text-align: center;
}

input[type='range'] {
  accent-color: var(--accent);
  width: 100%;
}

.actions {
  margin: 6px 0 0;
}

.wrong {
  color: var(--breaks);
  font-size: var(--size-small);
  margin: 4px 0 0;
}
</style>
