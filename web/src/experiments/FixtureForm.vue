<script setup lang="ts">
import type { Check, Circuit, Fixture, Waveform } from '@/api/client'
import { useCurvesOf } from '@/api/trials'
import { panesOf, plotCurve } from '@/plot/curves'
import PlotStack from '@/plot/PlotStack.vue'
import { mdiClose } from '@mdi/js'
import { computed, ref } from 'vue'
import { netsOf } from './checkEdits'
import FieldRow from '@/forms/FieldRow.vue'
import { WAVEFORMS } from './fixtureKinds'
import PickRow from '@/forms/PickRow.vue'
import WaveformForm from './WaveformForm.vue'

/** One supply, source, load or port outside the board edge: where it is attached, and what it does. */
const props = defineProps<{
  circuit: Circuit
  check: Check
  fixture: Fixture
  /** Stores the fixture in another form; rejects with the reason. */
  change: (next: Fixture, what: string) => Promise<void>
}>()
const emit = defineEmits<{ close: []; remove: []; trim: [fixture: string] }>()

const trouble = ref('')
async function store(next: Fixture, what: string) {
  trouble.value = ''
  try {
    await props.change(next, `${props.fixture.name}: ${what}`)
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}
const set = (field: string, value: unknown, what?: string) => store({ ...props.fixture, [field]: value } as Fixture, what ?? `${field} ${value || 'none'}`)
const nets = computed(() => ['gnd', ...netsOf(props.circuit)].map((net) => ({ value: net, title: net })))
const unit = computed(() => (props.fixture.kind === 'source' && props.fixture.quantity === 'current' ? 'A' : 'V'))
const forms = [{ value: '', title: 'none: only the direct value' }, ...Object.entries(WAVEFORMS).map(([value, { title }]) => ({ value, title }))]
const setForm = (kind: string) => set('waveform', kind ? WAVEFORMS[kind as Waveform['kind']].make() : null, kind || 'no waveform')

// A look at the waveform, as it will be computed.
const preview = useCurvesOf(() => (props.fixture.kind === 'source' ? props.fixture : undefined))
const panes = computed(() => {
  const view = preview.data.value
  const curve = view && plotCurve(view, props.fixture.name, 0, 0, 'axis')
  return curve && view.axis ? panesOf([{ curve, axis: view.axis }]) : []
})
</script>

<template>
  <section class="form" :aria-label="`Fixture ${fixture.name}`">
    <header><h2>{{ fixture.name }} <small class="soft">{{ fixture.kind }}, outside the board</small></h2><v-btn :icon="mdiClose" size="x-small" variant="text" aria-label="Close" title="Close" @click="emit('close')" /></header>
    <FieldRow label="Name" :value="fixture.name" @set="(name) => set('name', name)" />
    <div class="two">
      <PickRow label="On net" :value="fixture.plus" :options="nets" @set="(plus) => set('plus', plus)" />
      <PickRow label="Returns to" :value="fixture.minus" :options="nets" @set="(minus) => set('minus', minus)" />
    </div>
    <FieldRow v-if="fixture.kind === 'supply'" label="Volts" unit="V" :value="fixture.volts" @set="(text) => set('volts', text)" />
    <FieldRow v-else-if="fixture.kind === 'port'" label="Impedance" unit="Ω" :value="fixture.impedance" @set="(text) => set('impedance', text)" />
    <template v-else-if="fixture.kind === 'load'">
      <FieldRow label="Resistance" unit="Ω" :value="fixture.resistance" placeholder="none" @set="(text) => set('resistance', text || null)" />
      <FieldRow label="Capacitance" unit="F" :value="fixture.capacitance" placeholder="none" @set="(text) => set('capacitance', text || null)" />
      <FieldRow label="Current" unit="A" :value="fixture.current" placeholder="none" hint="A direct current that it draws" @set="(text) => set('current', text || null)" />
    </template>
    <FieldRow v-else-if="fixture.kind === 'written source'" label="Statement" :limit="2000" :value="fixture.text" @set="(text) => set('text', text, 'statement changed')" />
    <template v-else>
      <PickRow label="Gives" :value="fixture.quantity" :options="[{ value: 'voltage', title: 'a voltage' }, { value: 'current', title: 'a current' }]" @set="(quantity) => store({ ...fixture, quantity, dc: '0', ac: '1' } as Fixture, quantity)" />
      <FieldRow label="Direct value" :unit="unit" :value="fixture.dc" hint="At rest, and where its waveform begins" @set="(text) => set('dc', text || '0')" />
      <FieldRow label="AC magnitude" :unit="unit" :value="fixture.ac" hint="In a frequency response; 0 keeps it silent" @set="(text) => set('ac', text || '0')" />
      <FieldRow label="AC phase" unit="°" :value="fixture.phase" hint="In a frequency response, beside other sources" @set="(text) => set('phase', text || '0')" />
      <FieldRow label="Resistance" unit="Ω" :value="fixture.resistance" :hint="fixture.quantity === 'voltage' ? 'In series with it' : 'Across it; 0: none'" @set="(text) => set('resistance', text || '0')" />
      <PickRow label="In time" :value="fixture.waveform?.kind ?? ''" :options="forms" @set="setForm" />
      <WaveformForm v-if="fixture.waveform" :waveform="fixture.waveform" :unit="unit" @set="(waveform) => set('waveform', waveform, 'waveform changed')" />
      <div v-if="panes.length" class="preview"><PlotStack :panes="panes" shape="axis" :label="`What ${fixture.name} does in time`" /></div>
    </template>
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    <div class="actions">
      <v-btn v-if="fixture.kind !== 'written source'" size="small" variant="text" title="Turn its value while the cards follow" @click="emit('trim', fixture.name)">Trim it</v-btn>
      <v-btn size="small" variant="text" @click="emit('remove')">Remove it</v-btn>
    </div>
  </section>
</template>

<style scoped src="@/forms/form.css"></style>
<style scoped>
.two {
  display: contents;
}

.preview {
  height: 120px;
}
</style>
