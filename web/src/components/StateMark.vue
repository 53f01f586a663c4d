<script setup lang="ts">
import type { VerdictCell } from '@/api/client'
import { mdiCheckCircle, mdiCircleHalfFull, mdiCloseCircle, mdiHelpCircleOutline } from '@mdi/js'

/** A verdict state as mark and word, never colour alone. */
defineProps<{ state: VerdictCell['state'] }>()

const ICONS = { holds: mdiCheckCircle, thin: mdiCircleHalfFull, breaks: mdiCloseCircle, unproven: mdiHelpCircleOutline }
</script>

<template>
  <span class="state" :class="state"><v-icon :icon="ICONS[state]" size="18" /> {{ state }}</span>
</template>

<style scoped>
.state {
  align-items: center;
  display: inline-flex;
  font-weight: 600;
  gap: 6px;
}

.holds {
  color: var(--holds);
}

.thin {
  color: var(--thin);
}

.breaks {
  color: var(--breaks);
}

.unproven {
  color: var(--unproven);
}
</style>
