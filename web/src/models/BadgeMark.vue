<script setup lang="ts">
import type { ModelEntry } from '@/api/client'
import { mdiAlertDecagramOutline, mdiCheckDecagramOutline, mdiProgressQuestion } from '@mdi/js'

/** A model's badge as mark and words, never colour alone. */
defineProps<{ badge: ModelEntry['badge']; text: string }>()

const ICONS = {
  qualified: mdiCheckDecagramOutline, 'not qualified': mdiProgressQuestion, 'contradicts its data sheet': mdiAlertDecagramOutline,
}
const CLASSES = { qualified: 'qualified', 'not qualified': 'open', 'contradicts its data sheet': 'contradicts' }
</script>

<template>
  <span class="badge" :class="CLASSES[badge]"><v-icon :icon="ICONS[badge]" size="16" /> {{ text }}</span>
</template>

<style scoped>
.badge {
  align-items: center;
  display: inline-flex;
  font-weight: 500;
  gap: 4px;
}

.qualified {
  color: var(--holds);
}

.open {
  color: var(--unproven);
}

.contradicts {
  color: var(--breaks);
}
</style>
