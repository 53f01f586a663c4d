<script setup lang="ts">
import type { Analysis, Board, Check, CheckView, Circuit, Quantity } from '@/api/client'
import { fetchFreshCheck } from '@/api/sheet'
import FieldRow from '@/forms/FieldRow.vue'
import PickRow from '@/forms/PickRow.vue'
import SettingsForm from '@/forms/SettingsForm.vue'
import type { Change } from '@/stores/useEditing'
import { mdiClose } from '@mdi/js'
import { computed, ref } from 'vue'
import { goesWith, withCheck, withCopiedCheck, withFreshCheck, withoutCheck } from './checkEdits'
import { choicesOf } from './choices'
import { useKinds } from './useKinds'

/** The settings of a check: its name, what is computed and how, at what temperature; copying and removing it. */
const props = defineProps<{
  board: Board
  circuit: Circuit
  check: Check
  result: CheckView | undefined
  quantities: readonly Quantity[]
  edit: (change: Change, what: string) => Promise<void>
}>()
const emit = defineEmits<{ close: []; chosen: [check: string, circuit: string] }>()

const trouble = ref('')
async function change(make: (check: Check) => Check, what: string) {
  trouble.value = ''
  try {
    await props.edit((board) => withCheck(board, props.check.id, make), `${props.check.title}: ${what}`)
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}
/** One setting of the analysis; a refusal is shown at its field. */
const set = (changes: Record<string, unknown>, what: string) => props.edit((board) => withCheck(board, props.check.id, (check) => ({ ...check, analysis: { ...check.analysis, ...changes } as Analysis })), `${props.check.title}: ${what}`)

const { kinds, of, titleOf } = useKinds()
const kind = computed(() => of(props.check.analysis.kind))
const choices = computed(() => choicesOf(props.circuit, props.check, props.quantities))

/** Another question to the same fixture: what only the former one could measure goes. */
async function ask(next: string) {
  trouble.value = ''
  try {
    const made = await fetchFreshCheck(props.board, props.circuit.id, next, props.check.id, true)
    await props.edit((board) => withFreshCheck(board, props.circuit.id, made), `${props.check.title}: ${titleOf(next)}`)
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}

async function copyTo(circuit: string) {
  trouble.value = ''
  let id = ''
  try {
    const stored = props.edit((board) => {
      const copied = withCopiedCheck(board, props.check, circuit)
      id = copied.id
      return copied.board
    }, `${props.check.title} copied`)
    // It is shown already: what is done next is done to the copy.
    emit('chosen', id, circuit)
    await stored
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}
const remove = () => props.edit((board) => withoutCheck(board, props.check.id), `${props.check.title} removed`).then(() => emit('close'))
</script>

<template>
  <section class="form" aria-label="Settings of the check">
    <header><h2>Check</h2><v-btn :icon="mdiClose" size="x-small" variant="text" title="Close (Esc)" aria-label="Close the settings" @click="emit('close')" /></header>
    <FieldRow label="Name" :value="check.title" :limit="120" @set="(title) => change((old) => ({ ...old, title }), 'renamed')" />
    <PickRow label="Analysis" :value="check.analysis.kind" :options="kinds.map((entry) => ({ value: entry.kind, title: entry.title }))" :hint="kind?.meaning" @set="ask" />
    <SettingsForm v-if="kind" :key="kind.kind" :schema="kind.settings" :values="check.analysis" :choices="choices" :set="set" />
    <p v-if="kind && !kind.looks && !kind.main" class="soft">{{ kind.meaning }}</p>
    <FieldRow label="Temperature" unit="°C" :value="check.temperature" @set="(temperature) => change((old) => ({ ...old, temperature }), `${temperature} °C`)" />
    <p v-if="result?.scale" class="soft">Range chosen: {{ result.scale }}.</p>
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    <div class="actions">
      <v-menu>
        <template #activator="{ props: menu }"><v-btn size="small" variant="text" v-bind="menu">Copy it</v-btn></template>
        <v-list density="compact">
          <v-list-item v-for="other in board.circuits" :key="other.id" :title="other.id === circuit.id ? 'In this circuit' : `To ${other.title}`" @click="copyTo(other.id)" />
        </v-list>
      </v-menu>
      <v-btn size="small" variant="text" @click="remove">Remove it</v-btn>
      <span v-if="goesWith(board, check.id)" class="soft">{{ goesWith(board, check.id) }}</span>
    </div>
  </section>
</template>

<style scoped src="@/forms/form.css"></style>
