<script setup lang="ts">
import type { Waveform } from '@/api/client'
import { takeRecording } from '@/api/trials'
import { ref } from 'vue'

/** The file that a source plays back, and what it holds. */
type Recording = Extract<Waveform, { kind: 'recorded' }>
const props = defineProps<{ recording: Recording; set: (recording: Recording) => Promise<void> }>()

const told = ref('')
async function read(event: Event) {
  const [file] = (event.target as HTMLInputElement).files ?? []
  if (!file) return
  told.value = ''
  try {
    const { waveform, findings } = await takeRecording(file)
    told.value = findings.map(({ message }) => message).join(' ')
    if (waveform.kind === 'recorded') await props.set(waveform)
  } catch (error) {
    told.value = error instanceof Error ? error.message : String(error)
  }
}
</script>

<template>
  <label class="file">Choose a CSV or WAV file<input type="file" accept=".csv,.txt,.wav" aria-label="File with the recording" @change="read"></label>
  <p class="soft">{{ recording.file }}: {{ recording.samples.length }} samples</p>
  <p v-if="told" class="wrong" role="alert">{{ told }}</p>
</template>

<style scoped src="@/forms/form.css"></style>
