<script setup lang="ts">
import type { Board, ModelEntry } from '@/api/client'
import { withModel } from '@/stores/edits'
import { computed, ref } from 'vue'
import BadgeMark from './BadgeMark.vue'
import { newestOf, versionOf } from './shelf'

/** Which models, and which versions of them, the board's parts use; where a newer one is on the shelf, it says so. */
const props = defineProps<{ models: ModelEntry[]; board: Board; edit: (change: (board: Board) => Board, what?: string) => Promise<void> }>()
const emit = defineEmits<{ open: [id: string] }>()

const parts = computed(() =>
  props.board.circuits
    .flatMap((circuit) => circuit.parts)
    .flatMap((part) => (part.kind === 'modelled' ? [{ part, model: props.models.find((entry) => entry.id === part.model.id) }] : [])),
)
const trouble = ref('')

async function update(designator: string, to: ModelEntry) {
  try {
    await props.edit((board) => withModel(board, designator, { id: to.id, name: to.name }), `${designator} given ${to.name}`)
    trouble.value = ''
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}
const newer = (model: ModelEntry) => {
  const newest = newestOf(props.models, model.id)
  return newest && newest.id !== model.id ? newest : undefined
}
</script>

<template>
  <section v-if="parts.length" class="board" aria-label="Models on this board">
    <b>On this board</b>
    <div v-for="{ part, model } in parts" :key="part.designator" class="part">
      <b class="mono">{{ part.designator }}</b>
      <span v-if="!model" class="missing">{{ part.model.name.toUpperCase() }} is not on the shelf</span>
      <template v-else>
        <span>
          <a href="#" class="mono" @click.prevent="emit('open', model.id)">{{ model.name.toUpperCase() }}</a>
          <span v-if="versionOf(models, model.id)" class="soft"> {{ versionOf(models, model.id) }}</span>
        </span>
        <BadgeMark class="wide" :badge="model.badge" :text="model.badge_text" />
        <span v-if="newer(model)" class="wide">
          There is a newer one.
          <v-btn size="x-small" @click="update(part.designator, newer(model) as ModelEntry)">Use {{ versionOf(models, newer(model)?.id ?? '') }}</v-btn>
        </span>
      </template>
    </div>
    <v-alert v-if="trouble" type="error" variant="tonal" :text="trouble" />
  </section>
</template>

<style scoped>
.board {
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  font-size: 0.8125rem;
  padding: 8px 10px;
}

.part {
  display: grid;
  gap: 1px 8px;
  grid-template-columns: auto 1fr;
  margin-top: 4px;
}

.wide {
  grid-column: 2;
}

.missing {
  color: var(--breaks);
}
</style>
