<script setup lang="ts">
import type { DataSheetLine, Finding, Kind } from '@/api/client'
import { useReadDataSheet } from '@/api/models'
import FindingList from '@/components/FindingList.vue'
import { tick } from '@/format/engineering'
import { mdiClose } from '@mdi/js'
import { computed, ref } from 'vue'
import { bound } from './shelf'

/** What the data sheet says: typed line by line in the figures' own units, or pasted as a table with its heading. */
const props = defineProps<{ kind: Kind; lines: DataSheetLine[]; busy?: boolean }>()
const emit = defineEmits<{ save: [lines: DataSheetLine[]]; leave: [] }>()

type Column = 'least' | 'typical' | 'most'
const COLUMNS: { key: Column; title: string }[] = [
  { key: 'least', title: 'Min' }, { key: 'typical', title: 'Typ' }, { key: 'most', title: 'Max' },
]

const draft = ref<DataSheetLine[]>(props.lines.map((line) => ({ ...line })))
const pasted = ref('')
const findings = ref<Finding[]>([])
const read = useReadDataSheet()
const wrong = ref('')

const types = computed(() => new Map(props.kind.figures.map((figure) => [figure.key, figure])))
const free = computed(() => props.kind.figures.filter((figure) => !draft.value.some((line) => line.figure === figure.key)))
const empty = computed(() => draft.value.some((line) => COLUMNS.every(({ key }) => line[key] == null)))

async function take() {
  try {
    const sheet = await read.mutateAsync({ kind: props.kind.key, csv: pasted.value })
    findings.value = sheet.findings
    const kept = draft.value.filter((line) => !sheet.lines.some((other) => other.figure === line.figure))
    draft.value = [...kept, ...sheet.lines]
    if (sheet.lines.length) pasted.value = ''
  } catch {
    // The refusal is shown from `read.error`.
  }
}

function set(index: number, key: Column, text: string) {
  const value = text.trim() === '' ? null : bound(text)
  if (value === null && text.trim() !== '') {
    wrong.value = `“${text}” is no number: write it like 4.7 or 30 n.`
    return
  }
  wrong.value = ''
  draft.value = draft.value.map((line, k) => (k === index ? { ...line, [key]: value } : line))
}

function add(key: unknown) {
  if (typeof key === 'string') draft.value = [...draft.value, { figure: key, least: null, typical: null, most: null, conditions: '' }]
}
</script>

<template>
  <section aria-label="Data sheet" class="editor">
    <table v-if="draft.length" class="ruled">
      <thead>
        <tr><th>Figure</th><th v-for="column in COLUMNS" :key="column.key" class="number">{{ column.title }}</th><th>Unit</th><th>Conditions</th><th /></tr>
      </thead>
      <tbody>
        <tr v-for="(line, k) in draft" :key="line.figure">
          <td>{{ types.get(line.figure)?.title }}</td>
          <td v-for="column in COLUMNS" :key="column.key" class="number">
            <input
              class="mono" :value="line[column.key] == null ? '' : tick(line[column.key] ?? 0)" :aria-label="`${column.title} of ${types.get(line.figure)?.title}`"
              inputmode="decimal" @change="set(k, column.key, ($event.target as HTMLInputElement).value)"
            >
          </td>
          <td class="mono">{{ types.get(line.figure)?.unit }}</td>
          <td><input v-model="line.conditions" :aria-label="`Conditions of ${types.get(line.figure)?.title}`" maxlength="200"></td>
          <td>
            <v-btn
              :icon="mdiClose" size="x-small" variant="text" title="Remove this line" aria-label="Remove this line"
              @click="draft = draft.filter((_, n) => n !== k)"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="wrong" role="alert" class="wrong">{{ wrong }}</p>
    <p v-if="!draft.length" class="soft">No line yet: add a figure, or paste the table of the data sheet.</p>
    <div class="add">
      <v-select
        :model-value="null" :items="free" item-title="title" item-value="key" label="Add a figure" hide-details
        @update:model-value="add"
      />
    </div>
    <v-textarea
      v-model="pasted" rows="4" class="mono" label="Or paste a table" hide-details
      placeholder="Figure, Min, Typ, Max, Unit, Conditions&#10;Slew rate, , 4, , V/µs, gain of 1"
    />
    <div class="actions">
      <v-btn :disabled="!pasted.trim()" :loading="read.isPending.value" @click="take">Read the table</v-btn>
      <v-spacer />
      <v-btn variant="text" @click="emit('leave')">Cancel</v-btn>
      <v-btn variant="flat" :disabled="empty" :loading="busy" @click="emit('save', draft)">Keep the data sheet</v-btn>
    </div>
    <v-alert v-if="read.error.value" type="error" variant="tonal" :text="read.error.value.message" />
    <FindingList v-if="findings.length" :findings="findings" />
  </section>
</template>

<style scoped>
.editor {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  margin: 10px 0;
  padding: 10px 14px;
}

input {
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  padding: 3px 6px;
  width: 100%;
}

.number input {
  text-align: right;
  width: 92px;
}

.wrong {
  color: var(--breaks);
}

.add {
  margin: 10px 0;
  max-width: 320px;
}

table.ruled td {
  padding-bottom: 3px;
  padding-top: 3px;
  vertical-align: middle;
}
</style>
