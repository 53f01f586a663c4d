<script setup lang="ts">
import { takeRecording } from '@/api/trials'
import type { Waveform } from '@/api/client'
import { ref } from 'vue'
import CornerTable from './CornerTable.vue'
import FieldRow from '@/forms/FieldRow.vue'

/** What a source does in time, in the quantities of its form. */
const props = defineProps<{ waveform: Waveform; unit: string }>()
const emit = defineEmits<{ set: [waveform: Waveform] }>()

const set = (field: string, value: unknown) => emit('set', { ...props.waveform, [field]: value } as Waveform)

const trouble = ref('')
function setSeed(text: string) {
  const seed = Number(text)
  trouble.value = Number.isInteger(seed) && seed >= 0 && text ? '' : `'${text}' is no seed. Write a whole number such as 1.`
  if (!trouble.value) set('seed', seed)
}
async function read(event: Event) {
  const [file] = (event.target as HTMLInputElement).files ?? []
  if (!file) return
  trouble.value = ''
  try {
    const { waveform, findings } = await takeRecording(file)
    trouble.value = findings.map(({ message }) => message).join(' ')
    emit('set', waveform)
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}
</script>

<template>
  <template v-if="waveform.kind === 'sine'">
    <FieldRow label="Amplitude" :unit="unit" :value="waveform.amplitude" hint="Peak value, around the direct value" @set="(text) => set('amplitude', text)" />
    <FieldRow label="Frequency" unit="Hz" :value="waveform.frequency" @set="(text) => set('frequency', text)" />
    <FieldRow label="Phase" unit="°" :value="waveform.phase" @set="(text) => set('phase', text)" />
    <FieldRow label="Delay" unit="s" :value="waveform.delay" @set="(text) => set('delay', text)" />
  </template>
  <template v-else-if="waveform.kind === 'step'">
    <FieldRow label="To level" :unit="unit" :value="waveform.level" hint="From the direct value to this level" @set="(text) => set('level', text)" />
    <FieldRow label="At" unit="s" :value="waveform.delay" @set="(text) => set('delay', text)" />
    <FieldRow label="Rise time" unit="s" :value="waveform.rise" @set="(text) => set('rise', text)" />
  </template>
  <template v-else-if="waveform.kind === 'pulse'">
    <FieldRow label="To level" :unit="unit" :value="waveform.level" hint="From the direct value to this level and back" @set="(text) => set('level', text)" />
    <FieldRow label="Delay" unit="s" :value="waveform.delay" @set="(text) => set('delay', text)" />
    <FieldRow label="Rise time" unit="s" :value="waveform.rise" @set="(text) => set('rise', text)" />
    <FieldRow label="Width" unit="s" :value="waveform.width" hint="Time at the level" @set="(text) => set('width', text)" />
    <FieldRow label="Fall time" unit="s" :value="waveform.fall" @set="(text) => set('fall', text)" />
    <FieldRow label="Every" unit="s" :value="waveform.every" placeholder="once" hint="Its period; empty: once" @set="(text) => set('every', text || null)" />
  </template>
  <CornerTable v-else-if="waveform.kind === 'piecewise linear'" :waveform="waveform" :unit="unit" @set="emit('set', $event)" />
  <template v-else-if="waveform.kind === 'noise'">
    <FieldRow label="RMS value" :unit="unit" :value="waveform.rms" @set="(text) => set('rms', text)" />
    <FieldRow label="Interval" unit="s" :value="waveform.interval" hint="A new value every so often; half its power is left at 0.32 / interval" @set="(text) => set('interval', text)" />
    <FieldRow label="Seed" :value="String(waveform.seed)" hint="The same seed, the same noise" @set="setSeed" />
  </template>
  <template v-else>
    <label class="file">Choose a CSV or WAV file<input type="file" accept=".csv,.txt,.wav" aria-label="File with the recording" @change="read"></label>
    <p class="soft">{{ waveform.file }}: {{ waveform.samples.length }} samples, one every {{ waveform.interval }} s</p>
    <FieldRow label="Times" :value="waveform.scale" hint="Samples are multiplied by this" @set="(text) => set('scale', text)" />
    <label class="tick"><input type="checkbox" :checked="waveform.repeat" @change="set('repeat', ($event.target as HTMLInputElement).checked)"> again and again</label>
  </template>
  <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
</template>

<style scoped src="@/forms/form.css"></style>
