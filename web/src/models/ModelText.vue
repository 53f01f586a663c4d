<script setup lang="ts">
import type { Finding, ModelFile } from '@/api/client'
import { computed, ref } from 'vue'

/** The files of a model with line numbers, and in the margin beside each line what was found there. */
const props = defineProps<{ files: ModelFile[]; findings: Finding[]; at?: { file: string; line: number } }>()

/** Longer texts are cut in the display only. */
const SHOWN = 3000

const chosen = ref(props.at?.file ?? props.files[0]?.name ?? '')
const file = computed(() => props.files.find((other) => other.name === chosen.value) ?? props.files[0])
const byLine = computed(() => {
  const found = new Map<number, Finding[]>()
  for (const finding of props.findings) {
    const { line, file: name } = finding.place ?? {}
    if (line && (name ?? chosen.value).toLowerCase() === chosen.value.toLowerCase()) found.set(line, [...(found.get(line) ?? []), finding])
  }
  return found
})
const lines = computed(() => (file.value?.text ?? '').replace(/\n$/, '').split('\n'))
const worst = (findings: Finding[] | undefined) =>
  ['error', 'warning', 'note'].find((severity) => findings?.some((finding) => finding.severity === severity))
</script>

<template>
  <div v-if="files.length > 1" class="names" role="tablist" aria-label="Files">
    <button
      v-for="other in files" :key="other.name" type="button" role="tab" class="mono"
      :aria-selected="other.name === chosen" @click="chosen = other.name"
    >{{ other.name }}</button>
  </div>
  <p class="soft encoding">
    <span class="mono">{{ file?.name }}</span>, {{ lines.length }} lines, {{ file?.encoding || 'plain text' }}
  </p>
  <div class="text mono" tabindex="0" aria-label="Text of the model file">
    <template v-for="(line, k) in lines.slice(0, SHOWN)" :key="k">
      <span class="number">{{ k + 1 }}</span>
      <span class="line" :class="[worst(byLine.get(k + 1)), { comment: line.trimStart().startsWith('*') }]">{{ line || ' ' }}</span>
      <span class="margin">
        <span v-for="(finding, n) in byLine.get(k + 1)" :key="n" :class="finding.severity">
          {{ finding.message }}<template v-if="finding.remedy">. {{ finding.remedy }}</template>
        </span>
      </span>
    </template>
    <span v-if="lines.length > SHOWN" class="line soft">… {{ lines.length - SHOWN }} more lines</span>
  </div>
</template>

<style scoped>
.names {
  display: flex;
  gap: 6px;
  margin-bottom: 6px;
}

.names button {
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  padding: 2px 10px;
}

.names button[aria-selected='true'] {
  border-color: var(--ink);
  color: var(--ink);
  font-weight: 500;
}

.encoding {
  margin: 2px 0 6px;
}

.text {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  display: grid;
  font-size: 12px;
  grid-template-columns: 44px minmax(0, 1fr) minmax(0, max-content);
  line-height: 1.5;
  max-height: 560px;
  overflow: auto;
  padding: 8px 8px 8px 0;
}

.number {
  color: var(--ink-soft);
  padding-right: 10px;
  text-align: right;
  user-select: none;
}

.line {
  overflow-wrap: anywhere;
  white-space: pre-wrap;
}

.comment {
  color: var(--ink-soft);
}

.line.error {
  background: color-mix(in srgb, var(--breaks) 16%, transparent);
}

.line.warning {
  background: color-mix(in srgb, var(--thin) 16%, transparent);
}

.line.note {
  background: color-mix(in srgb, var(--ink) 9%, transparent);
}

.margin {
  font-family: var(--text);
  max-width: 300px;
  padding-left: 12px;
}

.margin > span {
  border-left: 2px solid currentColor;
  display: block;
  line-height: 1.35;
  margin-bottom: 4px;
  padding-left: 8px;
}

.margin .error {
  color: var(--breaks);
}

.margin .warning {
  color: var(--thin);
}

.margin .note {
  color: var(--ink-soft);
}
</style>
