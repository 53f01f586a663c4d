<script setup lang="ts">
import { RequestProblem } from '@/api/client'
import { useCheck } from '@/api/queries'
import ResponseCard from '@/sheet/ResponseCard.vue'
import SheetDrawing from '@/sheet/SheetDrawing.vue'
import { valuePath, withValue } from '@/stores/edits'
import { computed, ref } from 'vue'
import type { BoardPage } from './page'

const props = defineProps<BoardPage>()

const circuitId = ref(props.board.circuits[0]?.id)
const circuit = computed(() => props.board.circuits.find(({ id }) => id === circuitId.value))
const checkId = ref(circuit.value?.checks[0]?.id)
const check = computed(() => circuit.value?.checks.find(({ id }) => id === checkId.value))
const { data: result, error, isFetching } = useCheck(() => props.boardId, checkId)

async function change(part: string, value: string) {
  try {
    await props.edit((board) => withValue(board, part, value))
  } catch (problem) {
    const fault = problem instanceof RequestProblem && problem.fault(valuePath(props.board, part))
    throw fault ? new Error(fault) : problem
  }
}
</script>

<template>
  <div v-if="circuit && check" class="sheet-page">
    <div class="drawing">
      <h1>{{ circuit.title }}</h1>
      <p class="soft lead">Click a value to change it. Volts are those of the operating point.</p>
      <SheetDrawing
        :circuit="circuit" :check="check" :voltages="error ? undefined : result?.voltages" :stale="isFetching" :change="change"
      />
    </div>
    <aside aria-label="Cards">
      <ResponseCard :check="check" :result="result" :computing="isFetching" :error="error" />
    </aside>
  </div>
  <p v-else>This board has no circuit with a check yet.</p>
</template>

<style scoped>
.sheet-page {
  display: grid;
  gap: 0;
  grid-template-columns: minmax(0, 1fr) 400px;
}

</style>
