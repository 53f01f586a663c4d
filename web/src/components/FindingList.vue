<script setup lang="ts">
import type { Finding } from '@/api/client'
import { mdiAlertCircleOutline, mdiAlertOutline, mdiInformationOutline } from '@mdi/js'

/** Remarks on a text or a result, the worst first, each with its place and what to do. */
const props = defineProps<{ findings: Finding[] }>()

const ICONS: Record<string, string> = {
  error: mdiAlertCircleOutline, warning: mdiAlertOutline, note: mdiInformationOutline,
}
const ORDER = Object.keys(ICONS)
const sorted = () => [...props.findings].sort((a, b) => ORDER.indexOf(a.severity) - ORDER.indexOf(b.severity))
</script>

<template>
  <ul class="findings">
    <li v-for="(finding, k) in sorted()" :key="k" :class="finding.severity">
      <v-icon :icon="ICONS[finding.severity]" size="18" />
      <span>
        <b>{{ finding.severity }}</b><template v-if="finding.place?.line">, line {{ finding.place?.line }}</template>:
        {{ finding.message }}<template v-if="finding.remedy">. {{ finding.remedy }}</template>
      </span>
    </li>
  </ul>
</template>

<style scoped>
.findings {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: flex;
  gap: 8px;
  line-height: 1.45;
  padding: 4px 0;
}

.error b,
.error .v-icon {
  color: var(--breaks);
}

.warning b,
.warning .v-icon {
  color: var(--thin);
}
</style>
