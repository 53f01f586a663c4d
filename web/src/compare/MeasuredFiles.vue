<script setup lang="ts">
import type { Check, CheckView, Finding } from '@/api/client'
import { fetchWithout, measureWith, takeMeasured } from '@/api/trials'
import FindingList from '@/components/FindingList.vue'
import { withCheck } from '@/experiments/checkEdits'
import type { Change } from '@/stores/useEditing'
import { computed, ref, useTemplateRef } from 'vue'

/** What was measured, laid over what the check computes: files, and the virtual analyser where there are ports. */
const props = defineProps<{ boardId: string; check: Check; result: CheckView | undefined; edit: (change: Change, what: string) => Promise<void> }>()

/** Whether waves between ports are computed, which the analyser can measure and a file can hold. */
const hasWaves = computed(() => props.result?.traces?.some((name) => /^s(\d)\1$/.test(name)) ?? false)
const picker = useTemplateRef<HTMLInputElement>('picker')
const findings = ref<Finding[]>([])
const trouble = ref('')
const busy = ref(false)
const noise = ref('-80')
const length = ref('0')

async function take(found: Promise<{ check: unknown; findings: Finding[] }>, what: string) {
  trouble.value = ''
  findings.value = []
  busy.value = true
  try {
    const { check, findings: said } = await found
    await props.edit((board) => withCheck(board, props.check.id, () => check as Check), what)
    findings.value = said
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
  busy.value = false
}
function file(chosen: File | undefined) {
  if (chosen) void take(takeMeasured(props.boardId, props.check.id, chosen) as Promise<{ check: unknown; findings: Finding[] }>, `${chosen.name} laid over ${props.check.title}`)
  if (picker.value) picker.value.value = ''
}
function measure() {
  const [decibels, millimetres] = [Number(noise.value), Number(length.value)]
  if (!Number.isFinite(decibels) || !Number.isFinite(millimetres)) return void (trouble.value = 'Write plain numbers: decibels below the full wave, and millimetres.')
  void take(measureWith(props.boardId, props.check.id, decibels, millimetres / 1000) as Promise<{ check: unknown; findings: Finding[] }>, 'measured with the virtual analyser')
}
const drop = (name: string) => take(fetchWithout(props.boardId, props.check.id, name).then((check) => ({ check, findings: [] })), `${name} taken away`)
</script>

<template>
  <fieldset class="measured" :aria-busy="busy">
    <legend>Measured</legend>
    <p v-for="overlay in check.overlays ?? []" :key="overlay.name"><b class="mono">{{ overlay.name }}</b> {{ overlay.file }}, {{ overlay.frequency.length }} frequencies <button type="button" class="link" :aria-label="`Take ${overlay.name} away`" @click="drop(overlay.name)">take away</button></p>
    <label class="file">Lay a measured file over it<input ref="picker" type="file" accept=".s1p,.s2p,.s3p,.s4p,.s5p,.s6p,.s7p,.s8p,.s9p,.ts,.csv,.txt" aria-label="Measured file" title="A Touchstone file, or a table of frequencies with gain and phase" @change="file(($event.target as HTMLInputElement).files?.[0])"></label>
    <form v-if="hasWaves" class="analyser" aria-label="Virtual network analyser" @submit.prevent="measure">
      <span>Virtual analyser, noise</span><input v-model="noise" class="mono small-number" aria-label="Trace noise" title="Of the full wave"><span>dB, connectors</span><input v-model="length" class="mono small-number" aria-label="Length of connectors"><span>mm</span>
      <v-btn size="small" variant="text" type="submit" :disabled="busy">Measure</v-btn>
    </form>
    <a v-if="hasWaves" :href="`/api/boards/${boardId}/checks/${check.id}/touchstone`" download>Save as Touchstone</a>
    <p v-if="busy" class="soft" role="status">Reading what was measured …</p>
    <FindingList v-if="findings.length" :findings="findings" />
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
  </fieldset>
</template>

<style scoped src="@/forms/form.css"></style>
<style scoped src="@/forms/small.css"></style>
<style scoped>
fieldset {
  border: 0;
  display: grid;
  font-size: 0.8125rem;
  gap: 4px;
  margin-top: 6px;
  padding: 0;
}

legend {
  font-weight: 600;
}

p {
  margin: 0;
}

.analyser {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}

.link {
  color: var(--ink-soft);
  font-size: var(--size-small);
  text-decoration: underline;
}
</style>
