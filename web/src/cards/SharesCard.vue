<script setup lang="ts">
import type { CheckCard, CheckView, Mechanism } from '@/api/client'
import { engineering, percent } from '@/format/engineering'
import { computed, ref, watch } from 'vue'
import CardFrame from './CardFrame.vue'
import { togetherOf, withoutThem } from './shares'

/** What adds to a check's output, the largest first: by itself, as a part of the whole power, and by what makes it.
 *
 * Any of them is silenced after the run: what is left without them is told, and shown as a curve.
 */
const props = defineProps<{ card: CheckCard; result: CheckView | undefined; baseline: CheckView | undefined; computing: boolean; active: boolean }>()
const emit = defineEmits<{ enlarge: []; hide: []; print: []; drop: [expression: string]; show: [expression: string]; activate: [] }>()

/** So many are shown in any case, and those that add at least this part of the power. */
const ALWAYS = 6
const LEAST = 0.001
const shares = computed(() => props.result?.shares ?? [])
const all = ref(false)
const shown = computed(() => shares.value.filter(({ part, value }, k) => value > 0 && (all.value || k < ALWAYS || part >= LEAST)))
const before = (name: string) => props.baseline?.shares?.find((share) => share.name === name)?.value
const more = computed(() => shares.value.filter(({ value }) => value > 0).length - shown.value.length)

const silent = ref(new Set<string>())
watch(shares, (now) => (silent.value = new Set([...silent.value].filter((name) => now.some((share) => share.name === name)))))
function hear(name: string, heard: boolean) {
  const next = new Set(silent.value)
  if (heard) next.delete(name)
  else next.add(name)
  silent.value = next
}
const quiet = computed(() => shares.value.filter(({ name }) => silent.value.has(name)))
const together = computed(() => togetherOf(shares.value))
const left = computed(() => togetherOf(shares.value.filter(({ name }) => !silent.value.has(name))))
/** What makes it, where it is more than one thing. */
const made = (mechanisms: readonly Mechanism[]) =>
  mechanisms.map(({ name, part }) => (mechanisms.length > 1 ? `${name} ${percent(part)}` : name)).slice(0, 3).join(', ')
</script>

<template>
  <CardFrame :card="card" :computing="computing" :active="active" :enlarges="false" @hide="emit('hide')" @print="emit('print')" @activate="emit('activate')">
    <template #handle><slot name="handle" /></template>
    <table v-if="shown.length" class="shares">
      <thead><tr><td /><th scope="col">From</th><th scope="col" class="number">by itself</th><th scope="col" class="number">of the power</th><td /></tr></thead>
      <tbody>
        <tr v-for="{ name, value, part, mechanisms, trace } in shown" :key="name" :data-share="name" :class="{ silent: silent.has(name) }">
          <td><input type="checkbox" :checked="!silent.has(name)" :aria-label="`${name} is heard`" title="Untick to silence it: what would be left?" @change="hear(name, ($event.target as HTMLInputElement).checked)"></td>
          <th scope="row"><button type="button" :title="`Show the density that ${name} makes as a curve`" @click="emit('show', trace)">{{ name }}</button><small class="soft">{{ made(mechanisms) }}</small></th>
          <td class="number">{{ engineering(value, 'V') }}<small v-if="before(name) != null" class="soft" title="Before the value was turned"> {{ engineering(before(name), 'V') }}</small></td>
          <td class="number">{{ part < LEAST ? '< 0.1 %' : percent(part) }}</td>
          <td class="bar"><i :style="{ width: `${100 * part}%` }" /></td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td /><th scope="row">Together</th>
          <td class="number">{{ engineering(together, 'V') }}</td>
          <td class="number">100 %</td><td />
        </tr>
        <tr v-if="quiet.length" role="status" data-left>
          <td /><th scope="row">Without {{ quiet.map(({ name }) => name).join(', ') }}</th>
          <td class="number">{{ engineering(left, 'V') }}</td>
          <td class="number" colspan="2"><button type="button" class="link" @click="emit('show', withoutThem(quiet))">as a curve</button></td>
        </tr>
      </tfoot>
    </table>
    <button v-if="more > 0" type="button" class="link more" @click="all = true">{{ more }} more below a thousandth</button>
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
  padding: 2px 6px 2px 0;
  vertical-align: baseline;
}

th small {
  display: block;
  line-height: 1.1;
}

th button:hover,
.link {
  text-decoration: underline;
}

tfoot tr:first-child > * {
  border-top: 1px solid var(--rule);
}

.number {
  text-align: right;
  white-space: nowrap;
}

.silent {
  opacity: 0.5;
}

.bar {
  width: 22%;
}

.bar i {
  background: var(--ink);
  display: block;
  height: 7px;
  min-width: 1px;
}

.silent .bar i {
  background: var(--rule);
}

input {
  accent-color: var(--ink);
  margin: 0;
}

.more {
  font-size: var(--size-small);
}

p {
  font-size: var(--size-small);
  margin: 4px 0 0;
}
</style>
