<script setup lang="ts">
import type { Finding } from '@/api/client'
import { computed } from 'vue'

/** A model file's text with line numbers; lines with findings are marked, and say what was found. */
const props = defineProps<{ text: string; findings: Finding[] }>()

/** Longer texts are cut in the display only. */
const SHOWN = 2000

const byLine = computed(() => {
  const found = new Map<number, Finding[]>()
  for (const finding of props.findings) {
    const line = finding.place?.line
    if (line) found.set(line, [...(found.get(line) ?? []), finding])
  }
  return found
})
const lines = computed(() => props.text.split('\n').slice(0, SHOWN))
const cut = computed(() => props.text.split('\n').length > SHOWN)
</script>

<template>
  <ol class="text mono" tabindex="0" aria-label="Text of the model file">
    <li v-for="(line, k) in lines" :key="k" :class="byLine.get(k + 1)?.[0]?.severity" :title="byLine.get(k + 1)?.map((f) => f.message).join('; ')">
      <span :class="{ comment: line.trimStart().startsWith('*') }">{{ line || ' ' }}</span>
    </li>
    <li v-if="cut" class="soft">…</li>
  </ol>
</template>

<style scoped>
.text {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  font-size: 12px;
  line-height: 1.5;
  margin: 0;
  max-height: 420px;
  overflow: auto;
  padding: 8px 8px 8px 48px;
}

li::marker {
  color: var(--ink-soft);
}

span {
  white-space: pre;
}

.comment {
  color: var(--ink-soft);
}

.error {
  background: color-mix(in srgb, var(--breaks) 18%, transparent);
}

.warning {
  background: color-mix(in srgb, var(--thin) 18%, transparent);
}
</style>
