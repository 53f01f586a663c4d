<script setup lang="ts">
import type { CheckCard } from '@/api/client'
import { mdiArrowExpand, mdiEyeOffOutline, mdiPrinterOutline } from '@mdi/js'

/** What all cards have in common: title, state, and what can be done with them. */
defineProps<{ card: CheckCard; computing: boolean; active: boolean; enlarges: boolean }>()
const emit = defineEmits<{ enlarge: []; hide: []; print: []; activate: [] }>()
</script>

<template>
  <section class="curve-card" :class="{ active }" :aria-busy="computing" :aria-label="card.title" :data-card="card.id" @pointerdown="emit('activate')">
    <header>
      <slot name="handle"><h2>{{ card.title }}</h2></slot>
      <span v-if="computing" class="soft" role="status">computing</span>
      <v-btn v-if="enlarges" :icon="mdiArrowExpand" size="x-small" variant="text" title="Full size" :aria-label="`${card.title} at full size`" @click="emit('enlarge')" />
      <v-btn :icon="mdiPrinterOutline" size="x-small" variant="text" title="Print with the circuit" :aria-label="`Print ${card.title} with the circuit`" @click="emit('print')" />
      <v-btn :icon="mdiEyeOffOutline" size="x-small" variant="text" title="Hide this card" :aria-label="`Hide ${card.title}`" @click="emit('hide')" />
    </header>
    <div class="body" :class="{ stale: computing }"><slot /></div>
    <slot name="below" />
  </section>
</template>

<style scoped>
.curve-card {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  display: flex;
  flex-direction: column;
  height: 100%;
  padding: 6px 10px 8px;
}

.curve-card.active {
  border-color: var(--ink-soft);
}

header {
  align-items: center;
  border-bottom: 1px solid var(--accent);
  display: flex;
  gap: 2px;
  padding-bottom: 2px;
}

h2 {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.body {
  contain: layout paint;
  flex: 1;
  min-height: 60px;
  overflow: auto;
  padding-top: 4px;
}

.stale {
  opacity: 0.45;
}

@media print {
  header .v-btn {
    display: none;
  }
}
</style>
