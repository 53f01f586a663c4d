<script setup lang="ts">
import type { Finding, Remark } from '@/api/client'
import { mdiAlertCircleOutline, mdiAlertOutline, mdiInformationOutline } from '@mdi/js'
import { computed } from 'vue'

/** The electrical review in the margin: what looks wrong, why, and a way to the place. */
const props = defineProps<{ remarks: readonly Remark[]; findings: readonly Finding[]; computing: boolean }>()
const emit = defineEmits<{ show: [parts: string[], pins: string[], nets: string[]] }>()

const ICONS = { error: mdiAlertCircleOutline, warning: mdiAlertOutline, note: mdiInformationOutline }
const WORDS = { error: 'Wrong', warning: 'Doubtful', note: 'Note' }

const lines = computed(() => [
  ...props.remarks.map(({ rule, severity, message, remedy, parts, pins, nets }) => ({ rule, severity, message, remedy, parts, pins, nets })),
  ...props.findings.map(({ severity, message, remedy, place }) => ({
    rule: 'model', severity, message, remedy, parts: place?.part ? [place.part] : [], pins: [] as string[], nets: [] as string[],
  })),
])
const count = (severity: string) => lines.value.filter((line) => line.severity === severity).length
const summary = computed(() =>
  lines.value.length ? [[count('error'), 'wrong'], [count('warning'), 'doubtful'], [count('note'), 'to note']].filter(([n]) => n).map(([n, word]) => `${n} ${word}`).join(', ') : 'nothing to remark',
)
</script>

<template>
  <section class="review" aria-label="Electrical review" :aria-busy="computing">
    <h2>Review <small class="soft">{{ summary }}</small></h2>
    <ul v-if="lines.length" :class="{ stale: computing }">
      <li v-for="(line, k) in lines" :key="k" :class="line.severity" :data-rule="line.rule">
        <v-icon :icon="ICONS[line.severity]" size="16" :aria-label="WORDS[line.severity]" />
        <div>
          <p>{{ line.message.replace(/[.]?$/, '.') }} <span class="soft">{{ line.remedy }}</span></p>
          <button v-if="line.parts.length || line.nets.length" type="button" @click="emit('show', line.parts, line.pins, line.nets)">Show it</button>
        </div>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.review {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  padding: 10px 14px;
}

h2 {
  align-items: baseline;
  display: flex;
  gap: 8px;
}

small {
  font-weight: 400;
}

ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}

ul.stale {
  opacity: 0.5;
}

li {
  border-top: 1px solid var(--rule);
  display: grid;
  font-size: 0.8125rem;
  gap: 8px;
  grid-template-columns: 16px minmax(0, 1fr);
  line-height: 1.4;
  padding: 6px 0;
}

li .v-icon {
  margin-top: 2px;
}

li.error .v-icon {
  color: var(--breaks);
}

li.warning .v-icon {
  color: var(--thin);
}

p {
  margin: 0;
}

button {
  color: var(--ink);
  text-decoration: underline;
}
</style>
