<script setup lang="ts">
import type { Check, ClosedForm, FormulaView, Measurement } from '@/api/client'
import { fetchFormula, useVocabulary } from '@/api/trials'
import MathText from '@/components/MathText.vue'
import { formulaOffers } from '@/evidence/completion'
import MathsInput from '@/evidence/MathsInput.vue'
import { useLatest } from '@/evidence/useLatest'
import FieldRow from '@/forms/FieldRow.vue'
import PickRow from '@/forms/PickRow.vue'
import { engineering, signedPercent } from '@/format/engineering'
import { computed, ref, watch } from 'vue'

/** The designer's own formula for a measurement, typed or taken from the library, worked out while it is typed. */
const props = defineProps<{ boardId: string; check: Check; measurement: Measurement; formula: string; source: string; fault: string }>()
const emit = defineEmits<{ set: [hand: { formula: string; source: string }] }>()

const vocabulary = useVocabulary()
/** The latest answer, kept while the next one is on its way. */
const view = ref<FormulaView>()
async function answer(text: string) {
  view.value = await fetchFormula(props.boardId, props.check.id, text, { ...props.measurement, id: props.measurement.id || 'draft', hand: null })
  return view.value
}
const { said, ask } = useLatest<FormulaView>(answer)
const now = ref('')
// Names are known before anything is typed, and the number is another one when something else is measured.
watch(() => [props.measurement.key, props.measurement.of, JSON.stringify(props.measurement.settings)], () => (now.value ? ask(now.value) : void answer('0').catch(() => undefined)), { immediate: true })
const unread = computed(() => (now.value.trim() && said.value?.problem ? { text: said.value.problem, column: said.value.column ?? 1 } : null))

function typed(text: string) {
  now.value = text
  ask(text)
}
function set(text: string) {
  emit('set', { formula: text, source: props.source })
}

/** The library, those that give the measurement's unit. */
const forms = computed(() => (vocabulary.data.value?.closed_forms ?? []).filter(({ unit }) => unit === view.value?.unit || (unit === 'V/V' && view.value?.unit === '')))
const form = ref<ClosedForm>()
const names = ref<Record<string, string>>({})
function take(key: string) {
  form.value = forms.value.find((each) => each.key === key)
  names.value = {}
  for (const { symbol, unit } of form.value?.symbols ?? []) {
    // The first of that unit which nothing stands for yet; a name of its own is itself.
    const free = (view.value?.names ?? []).filter((name) => unit && name.unit === unit && !Object.values(names.value).includes(name.written))
    names.value[symbol] = free.find(({ written }) => written === symbol)?.written ?? free[0]?.written ?? symbol
  }
  write()
}
function write() {
  if (!form.value) return
  const formula = form.value.pieces.map((piece) => names.value[piece] ?? piece).join('')
  emit('set', { formula, source: [form.value.holds, form.value.source].join(' ') })
}
const fitting = (unit: string) => (view.value?.names ?? []).filter((name) => !unit || !name.unit || name.unit === unit)
</script>

<template>
  <h3>By hand</h3>
  <div class="maths">
    <span>Formula</span>
    <MathsInput :text="formula" label="By hand" placeholder="1/(2*pi*R1*C1), 1 + R3||R4/R5" :fault="unread" empties :offers="(text, caret) => formulaOffers(text, caret, view?.names ?? [], vocabulary.data.value)" @typed="typed" @set="set" />
  </div>
  <p v-if="fault" class="wrong" role="alert">{{ fault }}</p>
  <div v-if="now.trim() && view?.hand" class="worked" :class="{ waiting: !said }" role="status">
    <MathText :math="view.hand.rendered" />
    <span class="mono">= {{ engineering(view.hand.value, view.unit) }}</span>
    <small v-if="view.simulated != null" class="soft">simulated {{ engineering(view.simulated, view.unit) }}, {{ signedPercent(view.hand.deviation) }}</small>
    <small v-for="slip in view.hand.slips" :key="slip" class="slip">It would fit {{ slip }}.</small>
  </div>
  <PickRow v-if="forms.length" label="Closed form" :value="form?.key ?? ''" :options="[{ value: '', title: 'from the library …' }, ...forms.map(({ key, title }) => ({ value: key, title }))]" hint="A formula of the library, with the parts of this circuit in it" @set="take" />
  <template v-if="form">
    <template v-for="{ symbol, unit, meaning } in form.symbols" :key="symbol">
      <PickRow v-if="fitting(unit).length" :label="symbol" :value="names[symbol] ?? ''" :hint="meaning" :options="[...(names[symbol] === symbol ? [{ value: symbol, title: `${meaning} …` }] : []), ...fitting(unit).map(({ written, text }) => ({ value: written, title: `${written}, ${text}` }))]" @set="(name) => { names[symbol] = name; write() }" />
    </template>
  </template>
  <!-- Always there: what stands below must not move under the pointer that leaves the formula. -->
  <FieldRow label="Holds where" :value="source" :limit="500" placeholder="the assumption, where it is from" :hint="source" @set="(text) => emit('set', { formula, source: text })" />
</template>

<style scoped src="@/forms/form.css"></style>
<style scoped>
.worked {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  font-size: 0.8125rem;
  gap: 2px 8px;
}

.waiting {
  opacity: 0.5;
}

.slip {
  color: var(--thin);
  flex-basis: 100%;
}
</style>
