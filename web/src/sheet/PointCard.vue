<script setup lang="ts">
import type { Check, CheckView, Circuit } from '@/api/client'
import { engineering } from '@/format/engineering'
import { computed, ref } from 'vue'
import { netByEnd } from './ends'

/** The card of an operating point: volts by net, and the way to a frequency response with the same fixture. */
const props = defineProps<{ circuit: Circuit; check: Check; result: CheckView | undefined; computing: boolean; error: Error | null }>()
const emit = defineEmits<{ response: [source: string, output: string] }>()

const volts = computed(() => Object.entries(props.result?.voltages ?? {}).filter(([net]) => !/[.:]/.test(net)).sort(([a], [b]) => a.localeCompare(b, undefined, { numeric: true })))
const sources = computed(() => props.check.fixtures.filter(({ kind }) => kind === 'source').map(({ name }) => name))
const nets = computed(() => [...new Set(netByEnd(props.circuit.parts).values())].filter((net) => net !== 'gnd').sort())
const source = ref('')
const output = ref('')
const chosenSource = computed(() => (sources.value.includes(source.value) ? source.value : sources.value[0]))
const chosenOutput = computed(() => (nets.value.includes(output.value) ? output.value : (nets.value.find((net) => /out/i.test(net)) ?? nets.value.at(-1))))
</script>

<template>
  <section class="card" :aria-busy="computing" :aria-label="check.title">
    <header><h2>{{ check.title }}</h2><span v-if="computing" class="soft">being computed</span></header>
    <v-alert v-if="error" type="error" variant="tonal" :text="error.message" />
    <table v-else-if="result" class="ruled" :class="{ stale: computing }">
      <tbody><tr v-for="[net, value] in volts" :key="net"><td class="mono">{{ net }}</td><td class="number" :data-volts="net">{{ engineering(value, 'V') }}</td></tr></tbody>
    </table>
    <form v-if="sources.length && nets.length" class="response" @submit.prevent="chosenSource && chosenOutput && emit('response', chosenSource, chosenOutput)">
      <b>Frequency response</b>
      <label>from <select v-model="source" aria-label="Source">
        <option v-if="!sources.includes(source)" :value="source" hidden>{{ chosenSource }}</option>
        <option v-for="name in sources" :key="name">{{ name }}</option>
      </select></label>
      <label>to net <select v-model="output" aria-label="Output net">
        <option v-if="!nets.includes(output)" :value="output" hidden>{{ chosenOutput }}</option>
        <option v-for="name in nets" :key="name">{{ name }}</option>
      </select></label>
      <v-btn type="submit" size="small">Measure it</v-btn>
    </form>
    <p v-else class="soft">Type <b class="mono">source in 50</b> to attach a source to net in; a frequency response can then be measured.</p>
  </section>
</template>

<style scoped>
.card {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  padding: 12px 14px;
}

header {
  align-items: baseline;
  border-bottom: 1px solid var(--accent);
  display: flex;
  justify-content: space-between;
  margin-bottom: 4px;
  padding-bottom: 6px;
}

table.stale {
  opacity: 0.45;
}

table.ruled td {
  padding: 4px 0;
}

.response {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  margin-top: 12px;
}

.response b {
  flex-basis: 100%;
}

select {
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  color: inherit;
  font-family: var(--mono);
  padding: 3px 6px;
}
</style>
