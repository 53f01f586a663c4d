<script setup lang="ts">
import type { Waveform } from '@/api/client'
import { mdiClose } from '@mdi/js'
import { ref, watch } from 'vue'

/** The corners of a piecewise linear waveform as a table. Two corners at one instant are an edge. */
type Corners = Extract<Waveform, { kind: 'piecewise linear' }>['corners']
const props = defineProps<{ corners: Corners; unit: string; set: (corners: Corners) => Promise<void> }>()

const rows = ref<[string, string][]>([])
/** What was handed over and comes back. What is being typed by then stays, unless other corners come from elsewhere. */
let handed = ''
watch(() => JSON.stringify(props.corners), (now) => {
  if (now !== handed) rows.value = props.corners.map(([instant, value]) => [instant ?? '', value ?? ''])
}, { immediate: true })

const wrong = ref('')
async function hand() {
  wrong.value = ''
  try {
    const corners = rows.value.map(([instant, value]) => [instant.trim(), value.trim()])
    handed = JSON.stringify(corners)
    await props.set(corners as Corners)
  } catch (error) {
    wrong.value = error instanceof Error ? error.message : String(error)
  }
}
function add() {
  const [instant = '0', value = '0'] = rows.value.at(-1) ?? []
  rows.value = [...rows.value, [instant, value]]
  hand()
}
function remove(row: number) {
  rows.value = rows.value.filter((_, k) => k !== row)
  hand()
}
/** Rows copied from a table elsewhere: two columns, with tabs, spaces or semicolons between. */
function paste(event: ClipboardEvent, row: number) {
  const text = event.clipboardData?.getData('text') ?? ''
  const pasted = text.trim().split(/\r?\n/).map((line) => line.trim().split(/[\t; ]+/))
  if (!pasted.every((cells) => cells.length === 2)) return
  event.preventDefault()
  rows.value = [...rows.value.slice(0, row), ...pasted.map(([instant = '', value = '']): [string, string] => [instant, value]), ...rows.value.slice(row + 1)]
  hand()
}
</script>

<template>
  <table class="corners">
    <thead><tr><th>time / s</th><th>value / {{ unit }}</th><th /></tr></thead>
    <tbody>
      <tr v-for="(row, k) in rows" :key="k">
        <td><input v-model="row[0]" class="mono" maxlength="32" :aria-label="`Time of corner ${k + 1}`" @change="hand" @paste="paste($event, k)"></td>
        <td><input v-model="row[1]" class="mono" maxlength="32" :aria-label="`Value at corner ${k + 1}`" @change="hand"></td>
        <td><button v-if="rows.length > 1" type="button" class="soft" :aria-label="`Remove corner ${k + 1}`" title="Remove" @click="remove(k)"><v-icon :icon="mdiClose" size="14" /></button></td>
      </tr>
    </tbody>
  </table>
  <v-btn size="x-small" variant="text" class="add" @click="add">Add a corner</v-btn>
  <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
</template>

<style scoped>
.corners {
  border-collapse: collapse;
  font-size: 0.8125rem;
}

th {
  color: var(--ink-soft);
  font-weight: 400;
  text-align: left;
}

input.mono {
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  color: inherit;
  padding: 2px 6px;
  width: 100%;
}

.add {
  align-self: flex-start;
}

.wrong {
  color: var(--breaks);
  font-size: var(--size-small);
  margin: 0;
}
</style>
