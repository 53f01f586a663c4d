<script setup lang="ts">
import type { CheckCard, CheckView } from '@/api/client'
import { engineering, percent } from '@/format/engineering'
import { computed } from 'vue'
import CardFrame from './CardFrame.vue'

/** What adds to a check's output, the largest first: by itself, and as a part of the whole power. */
const props = defineProps<{ card: CheckCard; result: CheckView | undefined; baseline: CheckView | undefined; computing: boolean; active: boolean }>()
const emit = defineEmits<{ enlarge: []; hide: []; print: []; drop: [expression: string]; activate: [] }>()

/** So many are shown in any case, and those that add at least this part of the power. */
const ALWAYS = 6
const LEAST = 0.001
const shares = computed(() => props.result?.shares ?? [])
const shown = computed(() => shares.value.filter(({ part, value }, k) => value > 0 && (k < ALWAYS || part >= LEAST)))
const before = (name: string) => props.baseline?.shares?.find((share) => share.name === name)?.value
</script>

<template>
  <CardFrame :card="card" :computing="computing" :active="active" :enlarges="false" @hide="emit('hide')" @print="emit('print')" @activate="emit('activate')">
    <template #handle><slot name="handle" /></template>
    <table v-if="shown.length" class="shares">
      <thead><tr><th scope="col">From</th><th scope="col" class="number">by itself</th><th scope="col" class="number">of the power</th><td /></tr></thead>
      <tbody>
        <tr v-for="{ name, value, part } in shown" :key="name" :data-share="name">
          <th scope="row">{{ name }}</th>
          <td class="number">{{ engineering(value, 'V') }}<small v-if="before(name) != null" class="soft" title="Before the value was turned"> {{ engineering(before(name), 'V') }}</small></td>
          <td class="number">{{ part < LEAST ? '< 0.1 %' : percent(part) }}</td>
          <td class="bar"><i :style="{ width: `${100 * part}%` }" /></td>
        </tr>
      </tbody>
    </table>
    <p v-if="!shares.length && !computing" class="soft">Nothing makes noise here.</p>
  </CardFrame>
</template>

<style scoped>
.shares {
  border-collapse: collapse;
  font-size: 0.8125rem;
  width: 100%;
}

th {
  font-weight: 400;
  text-align: left;
}

thead th {
  color: var(--ink-soft);
  font-size: var(--size-small);
}

th,
td {
  padding: 2px 8px 2px 0;
}

.number {
  text-align: right;
}

.bar {
  width: 30%;
}

.bar i {
  background: var(--ink);
  display: block;
  height: 7px;
  min-width: 1px;
}

p {
  font-size: var(--size-small);
  margin: 4px 0 0;
}
</style>
