<script setup lang="ts">
import type { Check, CheckView } from '@/api/client'
import { engineering } from '@/format/engineering'
import { useKinds } from '@/experiments/useKinds'
import { computed } from 'vue'

/** The circuit at rest: what stands out, in words, and every net's volts where the check is about them. */
const props = defineProps<{ check: Check; result: CheckView | undefined; computing: boolean }>()
const emit = defineEmits<{ show: [part: string] }>()

const standings = computed(() => [...(props.result?.at_rest.standings ?? [])].sort((a, b) => Number(b.grave) - Number(a.grave)))
const volts = computed(() => Object.entries(props.result?.at_rest.voltages ?? {}).filter(([net]) => net !== 'gnd').sort(([a], [b]) => a.localeCompare(b)))
const amperes = computed(() => props.check.fixtures.map(({ name }) => [name, props.result?.at_rest.currents[name]] as const))
// A check without curves is about the circuit at rest.
const { of } = useKinds()
const isPoint = computed(() => {
  const kind = of(props.check.analysis.kind)
  return kind?.looks === '' && !kind.main
})
</script>

<template>
  <section v-if="isPoint || standings.length" class="card" :aria-busy="computing" aria-label="At rest">
    <header><h2>At rest</h2><span v-if="computing" class="soft">computing</span></header>
    <div :class="{ stale: computing }">
      <ul v-if="standings.length" class="standings">
        <li v-for="{ part, words, why, grave } in standings" :key="part + words" :class="{ grave }">
          <button type="button" @click="emit('show', part)"><b>{{ part }}</b> {{ words.replace(`${part}: `, '') }}</button> <span class="soft">{{ why }}</span>
        </li>
      </ul>
      <table v-if="isPoint && result" class="ruled">
        <tbody>
          <tr v-for="[net, value] in volts" :key="net"><td class="mono">{{ net }}</td><td class="number" :data-volts="net">{{ engineering(value, 'V') }}</td></tr>
          <tr v-for="[name, value] in amperes" :key="name"><td>into {{ name }}</td><td class="number" :data-amperes="name">{{ engineering(value, 'A') }}</td></tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped src="./card.css"></style>
<style scoped>
.standings {
  font-size: 0.8125rem;
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}

.standings .grave {
  color: var(--breaks);
}

table.ruled td {
  padding: 3px 0;
}
</style>
