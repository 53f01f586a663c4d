<script setup lang="ts">
import type { StudyColumn } from '@/api/client'
import { useBlame } from '@/api/studies'
import { engineering, percent } from '@/format/engineering'
import { computed } from 'vue'

/** Which quantities the variation of a measurement comes from, the largest share first. */
const props = defineProps<{ boardId: string; study: string; column: StudyColumn; rows: number }>()

const { data: found } = useBlame(() => props.boardId, () => props.study, () => props.column, () => props.rows)
/** Below this a share is what chance leaves of none. */
const SMALL = 0.005
const shown = computed(() => found.value?.shares.filter(({ share }) => share >= SMALL) ?? [])
const rest = computed(() => (found.value?.shares.length ?? 0) - shown.value.length)
const largest = computed(() => Math.max(...shown.value.map(({ share }) => share), 1e-9))
</script>

<template>
  <section v-if="found" aria-label="Where the variation comes from">
    <h2>Where the variation comes from</h2>
    <table class="ruled blame">
      <thead><tr><td /><th scope="col" class="number">of the variance</th><th scope="col" class="number" title="The change of the measurement with one standard deviation of the quantity">with 1 σ of it</th><td /></tr></thead>
      <tbody>
        <tr v-for="{ name, share, effect } in shown" :key="name" :data-share="name">
          <th scope="row" class="mono">{{ name }}</th>
          <td class="number">{{ percent(share) }}</td>
          <td class="number">{{ effect > 0 ? '+' : '' }}{{ engineering(effect, column.unit, 3) }}</td>
          <td class="bar"><i :style="{ width: `${(100 * share) / largest}%` }" /></td>
        </tr>
      </tbody>
    </table>
    <p class="soft">
      <template v-if="rest">{{ rest }} more with less than 0.5 % each. </template>R² = {{ found.explained.toFixed(3) }}<template v-if="found.explained < 0.9">: the rest comes from quantities acting together, or not along a line</template>.
    </p>
  </section>
</template>

<style scoped>
h2 {
  font-size: var(--size-body);
  margin: 14px 0 4px;
}

.blame {
  width: 100%;
}

.blame th {
  font-weight: 400;
  text-align: left;
}

.blame th.number {
  text-align: right;
}

.bar {
  width: 40%;
}

.bar i {
  background: var(--ink);
  display: block;
  height: 8px;
  min-width: 1px;
}
</style>
