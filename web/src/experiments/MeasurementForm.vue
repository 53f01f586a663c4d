<script setup lang="ts">
import { RequestProblem, type Board, type Check, type Circuit, type Measurement } from '@/api/client'
import { useVocabulary } from '@/api/trials'
import { outputOf } from '@/cards/cardEdits'
import ExpressionField from '@/evidence/ExpressionField.vue'
import FieldRow from '@/forms/FieldRow.vue'
import { fieldsOf } from '@/forms/fields'
import PickRow from '@/forms/PickRow.vue'
import SettingsForm from '@/forms/SettingsForm.vue'
import type { Change } from '@/stores/useEditing'
import { mdiClose } from '@mdi/js'
import { computed, nextTick, onMounted, reactive, ref, useTemplateRef } from 'vue'
import { netsOf, withoutMeasurement } from './checkEdits'
import { choicesOf } from './choices'
import HandForm from './HandForm.vue'
import { boundsOf, limitOf, withMeasurement } from './measuring'
import { useKinds } from './useKinds'

/** One measurement of a check, new or not, and the limit that is held on it. Nothing is stored before it is kept. */
const props = defineProps<{
  boardId: string
  board: Board
  circuit: Circuit
  check: Check
  /** Which one; empty for a new one. */
  measurement: string
  unit: string
  edit: (change: Change, what: string) => Promise<void>
}>()
const emit = defineEmits<{ close: [] }>()

const vocabulary = useVocabulary()
const { of } = useKinds()
const kind = computed(() => of(props.check.analysis.kind))
const entries = computed(() => (vocabulary.data.value?.measurements ?? []).filter(({ takes }) => kind.value?.gives.includes(takes)))
const stored = props.check.measurements.find(({ id }) => id === props.measurement)
const first = (key: string) => {
  const takes = entries.value.find((entry) => entry.key === key)?.takes
  const net = outputOf(props.check) ?? netsOf(props.circuit).find((name) => /out/i.test(name)) ?? netsOf(props.circuit)[0]
  return ((takes === 'response' || takes === 'density') && kind.value?.main) || `v(${net ?? 'out'})`
}
const draft = reactive<Measurement>(stored ? { ...stored, settings: { ...stored.settings } } : { id: '', key: entries.value[0]?.key ?? 'value', of: '', settings: {} })
if (!stored) draft.of = first(draft.key)
const bounds = reactive({ ...boundsOf(limitOf(props.board, props.check.id, props.measurement)) })
const entry = computed(() => entries.value.find(({ key }) => key === draft.key))
const choices = computed(() => choicesOf(props.circuit, props.check, []))

const root = useTemplateRef<HTMLElement>('root')
onMounted(() => root.value?.querySelector<HTMLElement>('select')?.focus())

function take(key: string) {
  const was = first(draft.key)
  draft.key = key
  if (draft.of === was) draft.of = first(key)
  const known = fieldsOf(entry.value?.settings ?? {}).map(({ name }) => name)
  draft.settings = Object.fromEntries(Object.entries(draft.settings ?? {}).filter(([name]) => known.includes(name)))
}

async function setDraft(changes: Record<string, unknown>) {
  const all = { ...draft.settings, ...changes } as Record<string, string | number>
  draft.settings = Object.fromEntries(Object.entries(all).filter(([, value]) => value !== null && value !== ''))
}

const trouble = ref('')
const faults = ref<Record<string, string>>({})
async function keep() {
  trouble.value = ''
  faults.value = {}
  // A field that is still being typed in hands over what it holds when it is left.
  if (document.activeElement instanceof HTMLInputElement) document.activeElement.blur()
  await nextTick()
  try {
    await props.edit((board) => withMeasurement(board, props.check, { ...draft }, { ...bounds }), `${entry.value?.title ?? draft.key} measured`)
    emit('close')
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
    const told = error instanceof RequestProblem ? (error.problem.faults ?? []) : []
    faults.value = Object.fromEntries(told.map(({ path }) => [path.split('.').at(-1) ?? '', error instanceof RequestProblem ? (error.fault(path) ?? '') : '']))
    if (Object.keys(faults.value).some((name) => ['of', 'formula', 'lower', 'upper', ...fieldsOf(entry.value?.settings ?? {}).map((field) => field.name)].includes(name))) trouble.value = ''
  }
}
function setHand(hand: { formula: string; source: string }) {
  draft.hand = hand.formula.trim() ? hand : null
}
async function remove() {
  await props.edit((board) => withoutMeasurement(board, props.check.id, props.measurement), 'measurement removed')
  emit('close')
}
</script>

<template>
  <section ref="root" class="form" aria-label="Measurement" @keydown.esc.stop="emit('close')">
    <header><h2>{{ stored ? 'Measurement' : 'New measurement' }}</h2><v-btn :icon="mdiClose" size="x-small" variant="text" title="Close (Esc)" aria-label="Close the measurement" @click="emit('close')" /></header>
    <PickRow label="Measure" :value="draft.key" :options="entries.map(({ key, title, family }) => ({ value: key, group: `of a ${family}`, title: key.endsWith('_db') ? `${title} (dB)` : title }))" :hint="entry?.meaning" @set="take" />
    <p class="soft">{{ entry?.meaning }}{{ entry?.source ? ` (${entry.source})` : '' }}</p>
    <div class="maths"><span>Of</span><ExpressionField :board-id="boardId" :circuit="circuit" :check="check" :expression="draft.of ?? ''" label="Of" placeholder="v(out), i(R1.2), v(out)/v(in)" @set="(expression) => (draft.of = expression)" /></div>
    <p v-if="faults.of" class="wrong" role="alert">{{ faults.of }}</p>
    <SettingsForm v-if="entry" :key="entry.key" :schema="entry.settings" :values="draft.settings ?? {}" :choices="choices" :faults="faults" :set="setDraft" />
    <HandForm :board-id="boardId" :check="check" :measurement="draft" :formula="draft.hand?.formula ?? ''" :source="draft.hand?.source ?? ''" :fault="faults.formula ?? ''" @set="setHand" />
    <h3>Limit</h3>
    <FieldRow label="At least" :unit="unit" :value="bounds.lower" placeholder="no lower bound" :wrong="Boolean(faults.lower)" @set="(text) => (bounds.lower = text)" />
    <p v-if="faults.lower" class="wrong" role="alert">{{ faults.lower }}</p>
    <FieldRow label="At most" :unit="unit" :value="bounds.upper" placeholder="no upper bound" :wrong="Boolean(faults.upper)" @set="(text) => (bounds.upper = text)" />
    <p v-if="faults.upper" class="wrong" role="alert">{{ faults.upper }}</p>
    <FieldRow label="Because" :value="bounds.reason" :limit="2000" placeholder="why it must hold" @set="(text) => (bounds.reason = text)" />
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    <div class="actions">
      <v-btn size="small" variant="flat" @click="keep">Keep</v-btn>
      <v-btn v-if="stored" size="small" variant="text" @click="remove">Remove it</v-btn>
      <span v-if="stored && limitOf(board, check.id, measurement)" class="soft">its limit goes with it</span>
    </div>
  </section>
</template>

<style scoped src="@/forms/form.css"></style>
<style scoped>
.actions {
  align-items: center;
  display: flex;
  margin-left: 0;
}
</style>
