<script setup lang="ts">
import { RequestProblem, type Limit, type VerdictRow } from '@/api/client'
import { useVerdict } from '@/api/queries'
import StateMark from '@/components/StateMark.vue'
import { engineering, signedPercent } from '@/format/engineering'
import { withLimit } from '@/stores/edits'
import { mdiPencil } from '@mdi/js'
import MissingRuns from '@/studies/MissingRuns.vue'
import StressTable from '@/studies/StressTable.vue'
import { computed, reactive, ref } from 'vue'
import type { BoardPage } from './page'

const props = defineProps<BoardPage>()

const { data: verdict, error, isFetching } = useVerdict(() => props.boardId)
const columns = computed(() => verdict.value?.columns ?? [])
const cellOf = (row: VerdictRow, study: string | null) => row.cells.find((cell) => cell.study === study)

/** The state of which limits are shown; all of them where it is none. */
const only = ref('')
const shown = computed(() => (verdict.value?.rows ?? []).filter((row) => !only.value || row.state === only.value))
/** Studies without which some limit stays unproven. */
const missing = computed(() => columns.value.flatMap(({ study, title }) => (study && verdict.value?.rows.some((row) => cellOf(row, study)?.state === 'unproven') ? [{ id: study, title }] : [])))

const editing = ref<string>()
const draft = reactive({ lower: '', upper: '', reason: '' })
const refusal = ref('')

function open(id: string) {
  const limit = props.board.limits.find((candidate) => candidate.id === id)
  if (!limit) return
  editing.value = id
  refusal.value = ''
  Object.assign(draft, { lower: limit.lower ?? '', upper: limit.upper ?? '', reason: limit.reason })
}

async function keep() {
  const id = editing.value
  if (!id) return
  const change: Partial<Limit> = { lower: draft.lower.trim() || null, upper: draft.upper.trim() || null, reason: draft.reason }
  try {
    const gone = change.lower === null && change.upper === null
    await props.edit((board) => (gone ? { ...board, limits: board.limits.filter((limit) => limit.id !== id) } : withLimit(board, id, change)), gone ? 'limit removed' : 'limit changed')
    editing.value = undefined
  } catch (problem) {
    refusal.value = problem instanceof RequestProblem || problem instanceof Error ? problem.message : String(problem)
  }
}
</script>

<template>
  <div class="head">
    <h1>Verdict</h1>
    <a :href="`/api/boards/${boardId}/verdict/report`" download title="One HTML file with the verdict, every check, spreads, stress and models; it prints well">Save the report</a>
  </div>
  <p class="soft lead">
    Each limit against the evidence there is for the board as it stands now. A limit that holds by less than
    {{ board.thin_margin }} % is thin.
  </p>
  <v-alert v-if="error" type="error" variant="tonal" :text="error.message" />
  <p v-else-if="!verdict" class="soft">Judging …</p>
  <div v-else-if="!verdict.rows.length" class="empty">
    <p>This board has no limit yet: nothing is promised, so nothing can break.</p>
    <p>Click a measurement on the <router-link :to="{ name: 'sheet' }">sheet</router-link>, or make one, and say what it must be at least or at most, and why.</p>
  </div>
  <template v-else>
    <p class="counts" role="status"><button v-for="{ state, limits } in verdict.counts" :key="state" type="button" :aria-pressed="only === state" :title="only === state ? 'Show all limits again' : `Show only limits of which something ${state === 'unproven' ? 'is unproven' : state === 'thin' ? 'is thin' : state}`" @click="only = only === state ? '' : state"><StateMark :state="state" /> {{ limits }}</button></p>
    <MissingRuns :board-id="boardId" :studies="missing" />
  </template>
  <div v-if="verdict?.rows.length" class="across">
    <table class="ruled matrix" :class="{ stale: isFetching }">
      <thead>
        <tr><th>Limit</th><th v-for="column in columns" :key="column.title">{{ column.title }}</th></tr>
      </thead>
      <tbody>
        <tr v-for="row in shown" :key="row.limit">
          <th scope="row" class="limit">
            <span class="soft">{{ row.circuit }}, {{ row.check.toLowerCase() }}</span>
            <h2>{{ row.measurement }}</h2>
            <form v-if="editing === row.limit" class="editor" @submit.prevent="keep" @keydown.esc="editing = undefined">
              <div class="bounds">
                <v-text-field v-model="draft.lower" autofocus label="Lower" :suffix="row.unit" hide-details class="mono" />
                <v-text-field v-model="draft.upper" label="Upper" :suffix="row.unit" hide-details class="mono" />
              </div>
              <v-textarea v-model="draft.reason" label="Reason" rows="2" hide-details auto-grow />
              <p v-if="refusal" role="alert" class="refusal">{{ refusal }}</p>
              <div class="bounds"><v-btn type="submit" variant="flat" size="small">Save</v-btn><v-btn size="small" @click="editing = undefined">Cancel</v-btn></div>
            </form>
            <template v-else>
              <p class="mono">
                {{ engineering(row.lower, row.unit) }} … {{ engineering(row.upper, row.unit) }}
                <v-btn :icon="mdiPencil" size="x-small" variant="text" :aria-label="`Change the limit on ${row.measurement}`" title="Change this limit" @click="open(row.limit)" />
              </p>
              <p class="soft reason">{{ row.reason }}</p>
            </template>
          </th>
          <td v-for="column in columns" :key="column.title" :data-cell="column.title">
            <template v-for="cell in [cellOf(row, column.study)]" :key="cell?.column ?? column.title">
              <router-link v-if="cell" class="cell" :to="cell.study ? { name: 'studies', query: { study: cell.study } } : { name: 'sheet' }" title="Open the evidence">
                <StateMark :state="cell.state" />
                <dl v-if="cell.worst != null">
                  <dt>{{ cell.study ? 'worst' : 'value' }}</dt><dd class="mono">{{ engineering(cell.worst, row.unit) }}</dd>
                  <dt>margin</dt><dd class="mono">{{ engineering(cell.margin, row.unit) }}<br>{{ signedPercent(cell.margin_percent) }}</dd>
                </dl>
                <p v-if="cell.why" class="soft why">{{ cell.why }}</p>
              </router-link>
              <span v-else class="soft" title="This study does not cover the check">not covered</span>
            </template>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
  <StressTable v-if="board.circuits.some(({ checks }) => checks.length)" :board-id="boardId" :edit="edit" />
</template>

<style scoped>
.head {
  align-items: baseline;
  display: flex;
  gap: 18px;
}

.counts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  margin: 0 0 8px;
}

.counts button {
  align-items: center;
  display: flex;
  gap: 6px;
  padding: 2px 4px;
}

.counts button[aria-pressed='true'] {
  text-decoration: underline;
  text-decoration-color: var(--accent);
  text-decoration-thickness: 2px;
}

.matrix {
  table-layout: fixed;
}

.matrix.stale {
  opacity: 0.55;
}

/* However many studies there are, numbers stay on one line, and the matrix scrolls. */
.matrix th:first-child {
  width: 15rem;
}

.matrix th {
  width: 10.25rem;
}

.matrix td,
.matrix .limit {
  padding: 14px 12px 14px 0;
  vertical-align: top;
}

.limit {
  color: var(--ink-text) !important;
  font-size: var(--size-body) !important;
  font-weight: 400 !important;
}

.limit p {
  margin: 4px 0 0;
}

.reason {
  max-width: 46ch;
}

.editor {
  display: grid;
  gap: 10px;
  margin-top: 10px;
}

.bounds {
  display: flex;
  gap: 8px;
}

.refusal {
  color: var(--breaks);
}

.across {
  overflow-x: auto;
}

dd {
  white-space: nowrap;
}

.cell {
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  background: var(--paper-raised);
  color: inherit;
  display: block;
  padding: 12px 10px;
  text-decoration: none;
}

.cell:hover {
  border-color: var(--accent);
}

dl {
  display: grid;
  gap: 3px 12px;
  grid-template-columns: auto 1fr;
  margin: 8px 0 0;
}

dt {
  color: var(--ink-soft);
}

dd {
  margin: 0;
  text-align: right;
}

.why {
  margin: 8px 0 0;
}
</style>
