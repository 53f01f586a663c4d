<script setup lang="ts">
import type { Board, Check, CheckView, Compared } from '@/api/client'
import StateMark from '@/components/StateMark.vue'
import { limitOf } from '@/experiments/measuring'
import { engineering, signedPercent } from '@/format/engineering'
import { isEvidence, keyOf, titleOf, type Candidate } from './candidates'

/** What a check measures, as drawn and of every candidate. */
const props = defineProps<{ board: Board; check: Check; result: CheckView | undefined; columns: readonly Candidate[]
  /** Whether curves of a candidate can be laid behind those of the cards. */
  overlaying?: boolean }>()
const behind = defineModel<string>('behind', { default: '' })

const valueOf = (found: Compared | undefined, id: string) => found?.result?.measured.find((measured) => measured.id === id)?.value
function change(found: Compared | undefined, id: string): string {
  const [now, then] = [props.result?.measured.find((measured) => measured.id === id)?.value, valueOf(found, id)]
  if (!isEvidence(props.result) || !isEvidence(found?.result)) return ''
  return now != null && then != null && now * then > 0 ? signedPercent((100 * (then - now)) / Math.abs(now)) : ''
}
</script>

<template>
  <table class="ruled">
    <tbody v-for="measured in result?.measured ?? []" :key="measured.id">
      <tr><th scope="rowgroup" colspan="4">{{ measured.title }}</th></tr>
      <tr><td>as drawn</td><td class="number" :class="{ soft: !isEvidence(result) }">{{ engineering(measured.value, measured.unit) }}</td><td /><td class="soft">{{ isEvidence(result) ? '' : 'no evidence' }}</td></tr>
      <tr v-for="column in columns" :key="keyOf(column)" :data-compared="measured.id">
        <td><button v-if="overlaying" type="button" :aria-pressed="behind === keyOf(column)" title="Lay its curves behind those of the cards" @click="behind = behind === keyOf(column) ? '' : keyOf(column)">{{ titleOf(column) }}</button><template v-else>{{ titleOf(column) }}</template></td>
        <td class="number" :class="{ soft: !isEvidence(column.found?.result) }">{{ engineering(valueOf(column.found, measured.id), measured.unit) }}</td>
        <td class="number soft">{{ change(column.found, measured.id) }}</td>
        <td v-if="!isEvidence(column.found?.result)" class="soft">no evidence</td>
        <td v-else><StateMark v-if="limitOf(board, check.id, measured.id) && column.found?.states?.[measured.id]" :state="column.found.states[measured.id]!" /></td>
      </tr>
    </tbody>
  </table>
  <p v-if="result && !result.measured.length" class="soft">This check measures nothing yet; its curves can be laid over each other.</p>
  <template v-for="column in columns" :key="keyOf(column)">
    <p v-if="column.found?.problem" class="wrong" role="alert">{{ titleOf(column) }}: {{ column.found.problem }}</p>
  </template>
</template>

<style scoped src="@/forms/form.css"></style>
<style scoped>
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
</style>
