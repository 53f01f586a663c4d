<script setup lang="ts">
import { useDifference } from '@/api/models'

/** What changed in a model's files since another version: statement by statement, then line by line. */
const props = defineProps<{ model: string; since: string }>()

const { data, error } = useDifference(() => props.model, () => props.since)
const sign = (line: string) => (line.startsWith('+') ? 'added' : line.startsWith('-') ? 'gone' : '')
</script>

<template>
  <v-alert v-if="error" type="error" variant="tonal" :text="error.message" />
  <template v-if="data">
    <p v-if="!data.changes.length" class="soft">No statement differs; comments or blanks do.</p>
    <table v-else class="ruled" aria-label="Statements that changed">
      <thead><tr><th>Statement</th><th>Before</th><th>Now</th></tr></thead>
      <tbody>
        <tr v-for="change in data.changes" :key="change.statement">
          <td class="mono">{{ change.statement }}</td>
          <td class="mono gone">{{ change.before || '–' }}</td>
          <td class="mono added">{{ change.after || '–' }}</td>
        </tr>
      </tbody>
    </table>
    <pre class="mono" tabindex="0" aria-label="Line by line"><span v-for="(line, k) in data.lines" :key="k" :class="sign(line)">{{ line }}
</span></pre>
  </template>
</template>

<style scoped>
td,
pre {
  font-size: 12px;
}

pre {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  line-height: 1.5;
  max-height: 420px;
  overflow: auto;
  padding: 8px 12px;
}

.added {
  color: var(--holds);
}

.gone {
  color: var(--breaks);
}
</style>
