<script setup lang="ts">
import type { Waveform } from '@/api/client'
import type { Field } from '@/forms/fields'
import PickRow from '@/forms/PickRow.vue'
import SettingsForm from '@/forms/SettingsForm.vue'
import { computed } from 'vue'
import CornerTable from './CornerTable.vue'
import RecordingRow from './RecordingRow.vue'
import { useKinds } from './useKinds'

/** What a source does in time: which waveform, and its settings. */
const props = defineProps<{
  waveform: Waveform | null
  field: Field
  own: string
  set: (waveform: Waveform | null, words: string) => Promise<void>
}>()

const { waveforms } = useKinds()
const kind = computed(() => waveforms.value.find((entry) => entry.kind === props.waveform?.kind))
const options = computed(() => [{ value: '', title: props.field.empty }, ...waveforms.value.map(({ kind: value, title }) => ({ value, title }))])
const choose = (value: string) => props.set(waveforms.value.find((entry) => entry.kind === value)?.fresh ?? null, value || 'no waveform')
const change = (changes: Record<string, unknown>, words: string) => props.set({ ...props.waveform, ...changes } as Waveform, words)
</script>

<template>
  <PickRow :label="field.label" :value="waveform?.kind ?? ''" :options="options" @set="choose" />
  <SettingsForm v-if="kind && waveform" :key="kind.kind" :schema="kind.settings" :values="waveform" :choices="() => []" :own="own" :set="change">
    <template #corners><CornerTable v-if="waveform.kind === 'piecewise linear'" :corners="waveform.corners" :unit="own" :set="(corners) => change({ corners }, 'corners changed')" /></template>
    <template #recording><RecordingRow v-if="waveform.kind === 'recorded'" :recording="waveform" :set="(next) => set(next, next.file)" /></template>
  </SettingsForm>
</template>
