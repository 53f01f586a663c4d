<script setup lang="ts">
import type { Check, Circuit, Fixture, Waveform } from '@/api/client'
import { useCurvesOf } from '@/api/trials'
import SettingsForm from '@/forms/SettingsForm.vue'
import { panesOf, plotCurve } from '@/plot/curves'
import PlotStack from '@/plot/PlotStack.vue'
import { mdiClose } from '@mdi/js'
import { computed } from 'vue'
import { choicesOf } from './choices'
import { useKinds } from './useKinds'
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

const { fixtureOf } = useKinds()
const kind = computed(() => fixtureOf(props.fixture.kind))
const choices = computed(() => choicesOf(props.circuit, props.check, []))
const own = computed(() => ('quantity' in props.fixture && props.fixture.quantity === 'current' ? 'A' : 'V'))
const set = (changes: Record<string, unknown>, words: string) => props.change({ ...props.fixture, ...changes } as Fixture, `${props.fixture.name}: ${words}`)
const waveform = computed(() => (props.fixture.kind === 'source' ? (props.fixture.waveform ?? null) : null))
const setWaveform = (next: Waveform | null, words: string) => set({ waveform: next }, words)

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
    <header><h2>{{ fixture.name }} <small class="soft">{{ kind?.title }}, outside the board</small></h2><v-btn :icon="mdiClose" size="x-small" variant="text" aria-label="Close" title="Close" @click="emit('close')" /></header>
    <SettingsForm v-if="kind" :key="fixture.name" :schema="kind.settings" :values="fixture" :choices="choices" :own="own" :set="set">
      <template #waveform="{ field }"><WaveformForm :waveform="waveform" :field="field" :own="own" :set="setWaveform" /></template>
    </SettingsForm>
    <div v-if="panes.length && waveform" class="preview"><PlotStack :panes="panes" shape="axis" :label="`What ${fixture.name} does in time`" /></div>
    <div class="actions">
      <v-btn v-if="kind?.main" size="small" variant="text" title="Turn its value while the cards follow" @click="emit('trim', fixture.name)">Trim it</v-btn>
      <v-btn size="small" variant="text" @click="emit('remove')">Remove it</v-btn>
    </div>
  </section>
</template>

<style scoped src="@/forms/form.css"></style>
<style scoped>
.preview {
  height: 120px;
}
</style>
