<script setup lang="ts">
import { useModel, useModels } from '@/api/queries'
import ModelIntake from '@/models/ModelIntake.vue'
import ModelSheet from '@/models/ModelSheet.vue'
import { mdiPlus } from '@mdi/js'
import { computed, ref } from 'vue'
import type { BoardPage } from './page'

defineProps<BoardPage>()

const { data: models, error } = useModels()
const chosen = ref<string>()
const adding = ref(false)
const shown = computed(() => (adding.value ? undefined : (chosen.value ?? models.value?.[0]?.id)))
const { data: model } = useModel(shown)

function stored(id: string) {
  chosen.value = id
  adding.value = false
}
</script>

<template>
  <h1>Models</h1>
  <p class="soft lead">Makers’ model files, kept whole, with where they came from. Check the pins before you trust one.</p>
  <v-alert v-if="error" type="error" variant="tonal" :text="error.message" />
  <div class="columns">
    <div class="shelf">
      <v-btn block :prepend-icon="mdiPlus" class="mb-3" @click="adding = true">Take in a model</v-btn>
      <p v-if="models && !models.length" class="soft">Nothing is stored yet.</p>
      <ul aria-label="Stored model files">
        <li v-for="entry in models" :key="entry.id">
          <button type="button" :class="{ chosen: entry.id === shown }" @click="stored(entry.id)">
            <b class="mono">{{ entry.subcircuits.join(', ').toUpperCase() || entry.name }}</b>
            <span class="soft">{{ entry.name }}</span>
            <span class="soft">{{ entry.used_by.length ? `used by ${entry.used_by.join(', ')}` : 'not used' }}</span>
          </button>
        </li>
      </ul>
    </div>
    <ModelIntake v-if="adding" @stored="stored" @leave="adding = false" />
    <ModelSheet v-else-if="model" :key="model.entry.id" :model="model" :board="board" :edit="edit" />
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  gap: 24px;
  grid-template-columns: 230px minmax(0, 1fr);
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

button {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  color: inherit;
  cursor: pointer;
  font: inherit;
  margin-bottom: 8px;
  overflow-wrap: anywhere;
  padding: 10px 12px;
  text-align: left;
  width: 100%;
}

button.chosen {
  border-color: var(--accent);
}

button span {
  display: block;
  font-size: var(--size-small);
}
</style>
