<script setup lang="ts">
import type { Board, Check, CheckView, Compared, VariantEntry } from '@/api/client'
import { useCompared, useVariants } from '@/api/trials'
import StateMark from '@/components/StateMark.vue'
import { limitOf } from '@/experiments/measuring'
import { engineering, signedPercent } from '@/format/engineering'
import type { Change } from '@/stores/useEditing'
import { mdiClose } from '@mdi/js'
import { computed, onBeforeUnmount, ref, watch } from 'vue'

/** The check as drawn beside itself with other parts in places, or as the board once was: measurement by measurement. */
const props = defineProps<{ boardId: string; board: Board; revision: number; saving: boolean; check: Check; result: CheckView | undefined; edit: (change: Change, what: string) => Promise<void>
  /** Puts a variant onto the board. */
  take: (variant: VariantEntry['variant'], what: string) => Promise<void> }>()
const emit = defineEmits<{ close: []; overlay: [result: CheckView | undefined] }>()

const variants = useVariants(() => props.boardId, () => props.check.id)
const keyOf = ({ variant }: VariantEntry) => JSON.stringify(variant)
const ticked = ref<string[]>([])
/** In the order in which they were ticked. */
const chosen = computed(() => ticked.value.flatMap((key) => (variants.data.value ?? []).filter((entry) => keyOf(entry) === key)))
const compared = useCompared(() => props.boardId, () => props.check.id, () => chosen.value.map(({ variant }) => variant))
const columns = computed<(VariantEntry & { found: Compared | undefined })[]>(() => chosen.value.map((entry, k) => ({ ...entry, found: compared.data.value?.[k] })))
const groups = computed(() => [...new Set((variants.data.value ?? []).map(({ group }) => group))])
const titleOf = ({ variant: { part }, title }: VariantEntry) => (part ? `${part}: ${title}` : title)

/** Whose curves are laid behind those of the cards: the one that was ticked last, or that was asked for. */
const behind = ref('')
const overlaid = computed(() => columns.value.find((column) => keyOf(column) === behind.value)?.found?.result ?? undefined)
watch(overlaid, (result) => emit('overlay', result ?? undefined), { immediate: true })
onBeforeUnmount(() => emit('overlay', undefined))
function tick(key: string, on: boolean) {
  ticked.value = on ? [...ticked.value, key] : ticked.value.filter((each) => each !== key)
  behind.value = on ? key : (ticked.value.at(-1) ?? '')
}

const isEvidence = (view: CheckView | null | undefined) => !view?.findings.some(({ severity }) => severity === 'error')
const valueOf = (found: Compared | undefined, id: string) => found?.result?.measured.find((measured) => measured.id === id)?.value
function change(found: Compared | undefined, id: string): string {
  const [now, then] = [props.result?.measured.find((measured) => measured.id === id)?.value, valueOf(found, id)]
  if (!isEvidence(props.result) || !isEvidence(found?.result)) return ''
  return now != null && then != null && now * then > 0 ? signedPercent((100 * (then - now)) / Math.abs(now)) : ''
}

const name = ref('')
const trouble = ref('')
async function keep() {
  trouble.value = ''
  const title = name.value.trim() || `Revision ${props.revision}`
  try {
    await props.edit((board) => ({ ...board, baselines: [...(board.baselines ?? []), { title, revision: props.revision }] }), `baseline ${title} kept`)
    name.value = ''
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}
async function use(column: VariantEntry) {
  trouble.value = ''
  try {
    await props.take(column.variant, `${column.title} for ${column.group}`)
    ticked.value = []
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}
const drop = (title: string) => props.edit((board) => ({ ...board, baselines: (board.baselines ?? []).filter((each) => each.title !== title) }), `baseline ${title} dropped`)
</script>

<template>
  <section class="form" aria-label="Compare" @keydown.esc.stop="emit('close')">
    <header><h2>Compare</h2><v-btn :icon="mdiClose" size="x-small" variant="text" title="Close (Esc)" aria-label="Close the comparison" @click="emit('close')" /></header>
    <div class="groups">
      <fieldset v-for="group in groups" :key="group">
        <legend>{{ group }}</legend>
        <div v-for="entry in (variants.data.value ?? []).filter((each) => each.group === group)" :key="keyOf(entry)">
          <label :title="entry.hint"><input type="checkbox" :checked="ticked.includes(keyOf(entry))" :disabled="ticked.length >= 12 && !ticked.includes(keyOf(entry))" @change="tick(keyOf(entry), ($event.target as HTMLInputElement).checked)"> {{ entry.title }}</label>
          <button v-if="group === 'Baselines'" type="button" class="link" :aria-label="`Drop baseline ${entry.title}`" @click="drop(entry.title)">drop</button>
        </div>
      </fieldset>
      <p v-if="variants.data.value && !groups.length" class="soft">Nothing can stand in the place of a part here. Keep a baseline, change something, and compare with it.</p>
    </div>
    <form class="keep" @submit.prevent="keep">
      <input v-model="name" class="mono" maxlength="80" aria-label="Name of the baseline" :placeholder="`Revision ${revision}`">
      <v-btn size="small" variant="text" type="submit" :disabled="saving" title="Keep the board as it is now to compare with later">Keep as a baseline</v-btn>
    </form>
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    <p v-if="compared.error.value" class="wrong" role="alert">{{ compared.error.value.message }}</p>
    <div v-if="columns.length" :class="{ stale: compared.isFetching.value }" :aria-busy="compared.isFetching.value">
      <table class="ruled">
        <tbody v-for="measured in result?.measured ?? []" :key="measured.id">
          <tr><th scope="rowgroup" colspan="4">{{ measured.title }}</th></tr>
          <tr><td>as drawn</td><td class="number" :class="{ soft: !isEvidence(result) }">{{ engineering(measured.value, measured.unit) }}</td><td /><td class="soft">{{ isEvidence(result) ? '' : 'no evidence' }}</td></tr>
          <tr v-for="column in columns" :key="keyOf(column)" :data-compared="measured.id">
            <td><button type="button" :aria-pressed="behind === keyOf(column)" title="Lay its curves behind those of the cards" @click="behind = behind === keyOf(column) ? '' : keyOf(column)">{{ titleOf(column) }}</button></td>
            <td class="number" :class="{ soft: !isEvidence(column.found?.result) }">{{ engineering(valueOf(column.found, measured.id), measured.unit) }}</td>
            <td class="number soft">{{ change(column.found, measured.id) }}</td>
            <td v-if="!isEvidence(column.found?.result)" class="soft">no evidence</td>
            <td v-else><StateMark v-if="limitOf(board, check.id, measured.id) && column.found?.states?.[measured.id]" :state="column.found.states[measured.id]!" /></td>
          </tr>
        </tbody>
      </table>
      <p v-if="result && !result.measured.length" class="soft">This check measures nothing yet; its curves can be laid over each other.</p>
      <template v-for="column in columns" :key="keyOf(column)">
        <p v-if="column.found?.said" class="said">{{ titleOf(column) }}: <span class="mono">{{ column.found.said }}</span></p>
        <p v-if="column.found?.said" class="take"><v-btn size="small" variant="text" @click="use(column)">Put it onto the board</v-btn></p>
        <p v-if="column.variant.how === 'model' && column.found?.result" class="take"><v-btn size="small" variant="text" @click="use(column)">Put {{ column.title }} in the place of {{ column.group }}</v-btn></p>
        <p v-if="column.found?.problem" class="wrong" role="alert">{{ titleOf(column) }}: {{ column.found.problem }}</p>
        <p v-else-if="column.found?.result?.sentence && column.found.result.sentence !== result?.sentence" class="soft said"><b>{{ titleOf(column) }}</b>: {{ column.found.result.sentence }}</p>
      </template>
    </div>
  </section>
</template>

<style scoped src="@/forms/form.css"></style>
<style scoped>
.groups {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  max-height: 16rem;
  overflow: auto;
}

fieldset {
  border: 0;
  padding: 0;
}

legend {
  font-size: 0.8125rem;
  font-weight: 600;
}

fieldset label {
  display: inline;
  font-size: 0.8125rem;
}

input[type='checkbox'] {
  accent-color: var(--ink);
}

.keep {
  align-items: center;
  display: flex;
  gap: 6px;
}

.keep input {
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  color: inherit;
  font-size: 0.8125rem;
  min-width: 0;
  padding: 3px 6px;
}

.link {
  color: var(--ink-soft);
  font-size: var(--size-small);
  text-decoration: underline;
}

table {
  font-size: 0.8125rem;
  width: 100%;
}

table th,
table td {
  border: 0;
  padding: 2px 8px 2px 0;
  vertical-align: middle;
}

tbody th {
  border-top: 1px solid var(--rule);
  font-weight: 600;
  padding-top: 6px;
  text-align: left;
}

td button {
  text-align: left;
}

td button[aria-pressed='true'] {
  text-decoration: underline;
  text-decoration-color: var(--accent);
  text-decoration-thickness: 2px;
}

.take {
  margin: 4px 0 0;
}

.said {
  font-size: 0.8125rem;
  margin: 4px 0 0;
}
</style>
