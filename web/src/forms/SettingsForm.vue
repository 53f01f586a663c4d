<script setup lang="ts">
import { RequestProblem } from '@/api/client'
import { computed, ref } from 'vue'
import FieldRow from './FieldRow.vue'
import { fieldsOf, valueOf, type Choice, type Field } from './fields'
import PickRow from './PickRow.vue'

/** A form for any settings that the service describes by a schema; what is refused stands under its field. */
const props = defineProps<{
  schema: Record<string, unknown>
  values: Record<string, unknown>
  /** What a field that names something can choose among. */
  choices: (what: string) => readonly Choice[]
  /** What is wrong with fields, where the whole was refused. */
  faults?: Record<string, string>
  /** The unit of settings that are in the unit of what they belong to. */
  own?: string
  /** Stores a setting, with those that it leaves open; rejects with the reason. */
  set: (changes: Record<string, unknown>, words: string) => Promise<void>
}>()

const fields = computed(() => fieldsOf(props.schema))
/** Those that mean something as the others are. */
const asked = computed(() => fields.value.filter(({ needs }) => !needs || props.values[needs]))
/** What was refused, by its field: why, and what was typed, which stays to be mended. */
const refused = ref<Record<string, { why: string; typed: string }>>({})
const wrong = (field: Field) => refused.value[field.name]?.why || props.faults?.[field.name] || ''
const text = (field: Field) => {
  const value = props.values[field.name]
  return value === null || value === undefined ? '' : String(value)
}
const options = (field: Field) => {
  const known = field.words.length ? field.words : props.choices(field.chooses)
  const now = text(field)
  // What is set but gone is shown, so that it can be seen and changed.
  const gone = now && field.control === 'pick' && !known.some(({ value }) => value === now) ? [{ value: now, title: `${now} (gone)` }] : []
  return [...(field.empty ? [{ value: '', title: field.empty }] : []), ...gone, ...known]
}
const ticked = (field: Field) => (props.values[field.name] ?? []) as string[]

async function store(field: Field, make: () => unknown, typed = '') {
  try {
    const value = make()
    const open = Object.fromEntries(fields.value.filter(({ name }) => field.resets.includes(name)).map(({ name, fallback }) => [name, fallback]))
    await props.set({ ...open, [field.name]: value }, `${field.label.toLowerCase()} ${value ?? field.empty}`)
    // Not before: what stands below must not move under the pointer that has just left the field.
    refused.value = Object.fromEntries(Object.entries(refused.value).filter(([name]) => name !== field.name))
  } catch (error) {
    const why = error instanceof RequestProblem ? faultOf(error, field.name) : error instanceof Error ? error.message : String(error)
    refused.value = { ...refused.value, [field.name]: { why, typed } }
  }
}

/** The reason at the field, without the place that the field itself is. */
function faultOf(error: RequestProblem, name: string): string {
  const fault = error.problem.faults?.find(({ path }) => path.endsWith(`.${name}`))
  return (fault && error.fault(fault.path)) ?? error.message
}

function toggled(field: Field, value: string) {
  const now = ticked(field)
  return now.includes(value) ? now.filter((each) => each !== value) : [...now, value]
}
</script>

<template>
  <template v-for="field in asked" :key="field.name">
    <slot v-if="field.shown" :name="field.shown" :field="field" />
    <PickRow v-else-if="field.control === 'pick'" :label="field.label" :value="text(field)" :options="options(field)" :hint="field.hint" @set="(value) => store(field, () => value || null)" />
    <label v-else-if="field.control === 'tick'" class="tick" :title="field.hint"><input type="checkbox" :checked="Boolean(values[field.name])" @change="store(field, () => ($event.target as HTMLInputElement).checked)"> {{ field.label }}</label>
    <fieldset v-else-if="field.control === 'many'" :title="field.hint">
      <legend>{{ field.label }}</legend>
      <label v-for="option in choices(field.chooses)" :key="option.value" class="tick"><input type="checkbox" :checked="ticked(field).includes(option.value)" @change="store(field, () => toggled(field, option.value))"> {{ option.title }}</label>
    </fieldset>
    <FieldRow v-else :label="field.label" :unit="field.unit === 'V or A' ? own : field.unit" :limit="field.control === 'text' && !field.unit ? 2000 : undefined" :value="refused[field.name]?.typed ?? text(field)" :placeholder="field.empty" :hint="field.hint" :wrong="Boolean(wrong(field))" @set="(typed) => store(field, () => valueOf(field, typed), typed)" />
    <p v-if="wrong(field)" class="wrong" role="alert">{{ wrong(field) }}</p>
  </template>
</template>

<style scoped src="./form.css"></style>
<style scoped>
fieldset {
  border: 0;
  margin: 0;
  padding: 0;
}

legend {
  font-size: 0.8125rem;
  padding: 0;
}

.tick {
  align-items: center;
  display: flex;
}
</style>
