<script setup lang="ts">
import type { Board, RevisionEntry } from '@/api/client'
import { fetchRevision, useRevisions } from '@/api/sheet'
import PlainDialog from '@/components/PlainDialog.vue'
import { ref } from 'vue'

/** A board's past: every saved state, to look at and to return to. */
const props = defineProps<{ boardId: string; present: number }>()
const emit = defineEmits<{ look: [board: Board, entry: RevisionEntry]; close: [] }>()

const { data: revisions, error } = useRevisions(() => props.boardId)
const trouble = ref('')
const when = (text: string) => new Date(text).toLocaleString(undefined, { dateStyle: 'short', timeStyle: 'medium' })

async function look(entry: RevisionEntry) {
  try {
    emit('look', await fetchRevision(props.boardId, entry.revision), entry)
  } catch (problem) {
    trouble.value = problem instanceof Error ? problem.message : String(problem)
  }
}
</script>

<template>
  <PlainDialog title="Revisions" :width="620" @close="emit('close')">
    <section class="revisions">
      <h2>Revisions</h2>
      <p class="soft">Every change is kept. Look at an earlier state, and return to it if you like; nothing is lost by that either.</p>
      <p v-if="trouble || error" role="alert" class="wrong">{{ trouble || error?.message }}</p>
      <table class="ruled">
        <thead><tr><th class="number">No.</th><th>When</th><th>What was done</th><th /></tr></thead>
        <tbody>
          <tr v-for="entry in revisions" :key="entry.revision">
            <td class="number">{{ entry.revision }}</td><td class="mono">{{ when(entry.created_at) }}</td><td>{{ entry.what }}</td>
            <td><span v-if="entry.revision === present" class="soft">now</span><button v-else type="button" class="look" @click="look(entry)">Look at it</button></td>
          </tr>
        </tbody>
      </table>
      <div class="actions"><v-btn variant="text" @click="emit('close')">Close</v-btn></div>
    </section>
  </PlainDialog>
</template>

<style scoped>
.revisions {
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  max-height: 84vh;
  overflow: auto;
  padding: 16px;
}

.look {
  color: var(--ink);
  text-decoration: underline;
}

.wrong {
  color: var(--breaks);
}
</style>
