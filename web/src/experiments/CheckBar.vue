<script setup lang="ts">
import type { Check, Circuit } from '@/api/client'
import { useQuestions } from '@/api/sheet'
import { mdiPlus, mdiTune } from '@mdi/js'
import { useKinds } from './useKinds'

/** The checks of a circuit, one click apart (`known` is what the service has of them); what else it can be asked, and the settings of the one that is shown. */
const props = defineProps<{ boardId: string; circuit: Circuit; check: Check | undefined; known: { circuit: string | undefined; check: string | undefined }; settings: boolean }>()
const emit = defineEmits<{ choose: [check: string]; add: [kind: string, which: number]; settings: [] }>()

const { titleOf } = useKinds()
const questions = useQuestions(() => props.boardId, () => props.known.circuit, () => props.known.check)
</script>

<template>
  <div class="check-bar">
    <nav aria-label="Checks">
      <button v-for="each in circuit.checks" :key="each.id" type="button" :aria-current="each.id === check?.id" :title="titleOf(each.analysis.kind)" @click="emit('choose', each.id)">{{ each.title }}</button>
    </nav>
    <v-btn v-if="check" :icon="mdiTune" size="x-small" variant="text" title="Settings of this check" aria-label="Settings of this check" :aria-pressed="settings" @click="emit('settings')" />
    <v-menu>
      <template #activator="{ props: menu }"><v-btn size="small" variant="text" :prepend-icon="mdiPlus" v-bind="menu">Check</v-btn></template>
      <v-list density="compact">
        <v-list-item v-for="{ kind, which, title, question, missing } in questions.data.value ?? []" :key="`${kind} ${which}`" :title="question" :subtitle="missing || title" :disabled="Boolean(missing)" @click="emit('add', kind, which)" />
      </v-list>
    </v-menu>
  </div>
</template>

<style scoped>
.check-bar {
  align-items: center;
  display: flex;
  gap: 2px;
  min-width: 0;
}

nav {
  display: flex;
  gap: 2px;
  min-width: 0;
  overflow-x: auto;
}

nav button {
  border-bottom: 2px solid transparent;
  color: var(--ink-soft);
  font-size: 0.8125rem;
  padding: 3px 7px;
  white-space: nowrap;
}

nav button[aria-current='true'] {
  border-bottom-color: var(--accent);
  color: var(--ink-text);
  font-weight: 500;
}
</style>
