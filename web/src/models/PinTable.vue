<script setup lang="ts">
import type { Reading } from '@/api/client'
import { refusal } from './roles'

/** One subcircuit's nodes with their roles: proposed with a reason, to be corrected by the user. */
const props = defineProps<{ subcircuit: Reading['subcircuits'][number]; known: string[]; roles: string[] }>()
const emit = defineEmits<{ change: [roles: string[]] }>()

function set(index: number, role: unknown) {
  emit('change', props.roles.map((old, k) => (k === index ? String(role ?? '') : old)))
}
</script>

<template>
  <h2 class="mono">
    {{ subcircuit.name.toUpperCase() }} <small class="soft">line {{ subcircuit.line }}, {{ subcircuit.elements ? `${subcircuit.elements} elements` : 'cannot be expanded' }}</small>
  </h2>
  <table class="ruled" :aria-label="`Pins of ${subcircuit.name}`">
    <thead>
      <tr><th>Node</th><th class="role">Pin</th><th>Why</th></tr>
    </thead>
    <tbody>
      <tr v-for="(pin, k) in subcircuit.pins" :key="pin.node">
        <td class="mono">{{ pin.node }}</td>
        <td class="role">
          <v-combobox
            :model-value="roles[k]" :items="known" variant="outlined" density="compact" hide-details class="mono"
            :aria-label="`Pin of node ${pin.node}`" @update:model-value="set(k, $event)"
          />
        </td>
        <td :class="pin.sureness === 'said in the file' ? '' : 'unsure'">{{ pin.sureness }}: {{ pin.reason }}</td>
      </tr>
    </tbody>
  </table>
  <p v-if="refusal(roles)" role="alert" class="refusal">{{ refusal(roles) }}</p>
</template>

<style scoped>
small {
  font-family: var(--text);
  font-weight: 400;
}

.role {
  width: 150px;
}

.unsure {
  color: var(--thin);
}

.refusal {
  color: var(--breaks);
  margin: 6px 0;
}

table.ruled td {
  padding-bottom: 3px;
  padding-top: 3px;
  vertical-align: middle;
}
</style>
