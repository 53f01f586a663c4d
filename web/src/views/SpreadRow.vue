<script setup lang="ts">
import type { Spread } from '@/api/client'
import { ref, watch } from 'vue'
import { REFUSAL, tolerance, type Spreadable } from './spreads'

/** One part's spread, with fields of the browser's own: there may be hundreds of them. */
const props = defineProps<{
  part: Spreadable
  circuit: string
  spread: Spread | undefined
  distributions: readonly { key: string; title: string }[]
  /** Stores the spread, null for none; answers why not. */
  keep: (designator: string, change: Omit<Spread, 'part'> | null) => Promise<string>
}>()

// What stands in the field, as text, so that a wrong entry can be refused in place.
const draft = ref('')
const refusal = ref('')
watch(() => props.spread?.tolerance, (now) => (draft.value = now === undefined ? '' : String(now)), { immediate: true })

async function store(distribution: Spread['distribution']) {
  const value = tolerance(draft.value)
  const wrong = draft.value.trim() !== '' && value === null
  const { spread } = props
  const same = spread ? spread.tolerance === value && spread.distribution === distribution : value === null
  refusal.value = wrong ? REFUSAL : same ? '' : await props.keep(props.part.designator, value === null ? null : { tolerance: value, distribution })
}
</script>

<template>
  <tr>
    <td><b>{{ part.designator }}</b></td>
    <td>{{ part.kind }}</td>
    <td class="number">{{ part.value }}</td>
    <td class="tolerance">
      <input
        v-model="draft" class="mono" placeholder="exact" inputmode="decimal" maxlength="20" :aria-label="`Tolerance of ${part.designator}`" :aria-invalid="!!refusal"
        @change="store(spread?.distribution ?? 'uniform')"
      > %
      <p v-if="refusal" role="alert" class="refusal">{{ refusal }}</p>
    </td>
    <td>
      <select
        :value="spread?.distribution ?? 'uniform'" :disabled="!spread" :aria-label="`Distribution of ${part.designator}`"
        @change="store(($event.target as HTMLSelectElement).value as Spread['distribution'])"
      >
        <option v-for="{ key, title } in distributions" :key="key" :value="key">{{ title }}</option>
      </select>
    </td>
    <td class="soft">{{ circuit }}</td>
  </tr>
</template>

<style scoped src="@/forms/row.css"></style>
<style scoped>
td {
  padding-bottom: 4px;
  padding-top: 4px;
  vertical-align: middle;
}

.tolerance {
  padding-left: 24px;
  white-space: nowrap;
}

input,
select {
  font-size: 0.8125rem;
  min-height: 30px;
  padding: 2px 8px;
}

input {
  text-align: right;
  width: 84px;
}

input[aria-invalid='true'] {
  border-color: var(--breaks);
}

.refusal {
  color: var(--breaks);
  font-size: var(--size-small);
  margin: 2px 0 0;
  white-space: normal;
}
</style>
