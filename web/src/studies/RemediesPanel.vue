<script setup lang="ts">
import type { Spread } from '@/api/client'
import { useRemedies } from '@/api/studies'
import { percent } from '@/format/engineering'
import { withSpreads, withValue } from '@/stores/edits'
import type { Change } from '@/stores/useEditing'
import { computed, ref } from 'vue'

/** Single changes that would give more of a study's units within their limits; one click puts one onto the board. */
const props = defineProps<{ boardId: string; study: string; rows: number; edit: (change: Change, what: string) => Promise<void> }>()

const { data, error, isFetching } = useRemedies(() => props.boardId, () => props.study, () => props.rows)
const MOST = 6
const all = ref(false)
const shown = computed(() => data.value?.found.slice(0, all.value ? undefined : MOST) ?? [])
const trouble = ref('')
async function put({ of, words, spread, value }: { of: string; words: string; spread?: unknown; value?: string | null }) {
  trouble.value = ''
  const change: Change = (board) => (value ? withValue(board, of, value) : withSpreads(board, new Map([[of, spread as Spread]])))
  await props.edit(change, words).catch((problem: unknown) => (trouble.value = problem instanceof Error ? problem.message : String(problem)))
}
</script>

<template>
  <section aria-label="What would help" :aria-busy="isFetching">
    <h2>What would help</h2>
    <p v-if="isFetching" class="soft" role="status">Closer tolerances and other values are tried on the same units.</p>
    <p v-else-if="error" class="wrong" role="alert">{{ error.message }}</p>
    <template v-else-if="data">
      <table v-if="shown.length" class="ruled">
        <thead><tr><th scope="col">One change</th><th scope="col" class="number">Yield</th><th scope="col">at 95 %</th><td /></tr></thead>
        <tbody>
          <tr><td>as it is</td><td class="number">{{ percent(data.now.share) }}</td><td class="soft range">{{ percent(data.now.low) }} to {{ percent(data.now.high) }}</td><td /></tr>
          <tr v-for="{ change, within } in shown" :key="change.words" data-remedy>
            <td>{{ change.words.replaceAll(' %', '\u00A0%') }}</td>
            <td class="number">{{ percent(within.share) }}</td>
            <td class="soft range">{{ percent(within.low) }} to {{ percent(within.high) }}</td>
            <td><v-btn size="small" variant="text" :aria-label="`Put ${change.words} onto the board`" title="Puts it onto the board: Ctrl Z takes it back, a run confirms it" @click="put(change)">Put on</v-btn></td>
          </tr>
        </tbody>
      </table>
      <p v-if="data.found.length > MOST && !all"><v-btn size="small" variant="text" @click="all = true">Show all {{ data.found.length }}</v-btn></p>
      <p class="soft">
        <template v-if="!data.known">Nothing that has a spread carries enough of the variation to be changed alone.</template>
        <template v-else-if="!shown.length">None of {{ data.tried }} single changes gives more.</template>
        Tried on the study's first {{ data.now.total }} units, against all limits of its checks.<template v-if="data.tried < data.known"> {{ data.known - data.tried }} changes more took too long to try.</template>
      </p>
      <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    </template>
    <p v-else class="soft">There is no limit on what this study measures.</p>
  </section>
</template>

<style scoped>
h2 {
  font-size: var(--size-body);
  margin: 14px 0 4px;
}

table {
  width: 100%;
}

th {
  font-weight: 400;
  text-align: left;
}

th.number {
  text-align: right;
}

.range {
  white-space: nowrap;
}

.wrong {
  color: var(--breaks);
}
</style>
