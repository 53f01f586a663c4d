<script setup lang="ts">
import type { ModelEntry } from '@/api/client'
import { computed, ref } from 'vue'
import BadgeMark from './BadgeMark.vue'
import { filtered, KEY_FIGURES, versionOf } from './shelf'

/** The shelf: searched, filtered by kind and by key figures; models are opened, or marked for comparison. */
const props = defineProps<{ models: ModelEntry[]; shown: string | undefined; marked: readonly string[] }>()
const emit = defineEmits<{ open: [id: string]; mark: [marked: string[]] }>()

const words = ref('')
const kind = ref<string | null>(null)
const least = ref<Record<string, string>>({})
const kinds = computed(() => [...new Set(props.models.map((model) => model.kind))].sort())
const keys = computed(() => (kind.value ? (KEY_FIGURES[kind.value] ?? []) : []))
const found = computed(() => filtered(props.models, words.value, kind.value, least.value))

function toggle(id: string) {
  emit('mark', props.marked.includes(id) ? props.marked.filter((other) => other !== id) : [...props.marked, id].slice(-6))
}
</script>

<template>
  <div class="shelf">
    <v-text-field v-model="words" label="Search" hide-details clearable />
    <v-select v-model="kind" :items="kinds" label="Kind" hide-details clearable />
    <div v-if="keys.length" class="least">
      <v-text-field v-for="key in keys" :key="key.figure" v-model="least[key.figure]" class="mono" :label="key.label" hide-details density="compact" />
    </div>
    <p v-if="!models.length" class="soft">Nothing is stored yet.</p>
    <p v-else-if="!found.length" class="soft">No model matches.</p>
    <ul aria-label="Models on the shelf">
      <li v-for="entry in found" :key="entry.id">
        <input type="checkbox" :checked="marked.includes(entry.id)" :aria-label="`Compare ${entry.name.toUpperCase()}`" title="Mark for comparison" @change="toggle(entry.id)">
        <button type="button" :class="{ chosen: entry.id === shown }" @click="emit('open', entry.id)">
          <span class="line"><b class="mono">{{ entry.name.toUpperCase() }}</b><span class="soft">{{ entry.kind }}</span></span>
          <BadgeMark :badge="entry.badge" :text="entry.badge_text" />
          <span v-if="versionOf(models, entry.id)" class="soft">{{ versionOf(models, entry.id) }}{{ entry.superseded_by ? ', there is a newer one' : '' }}</span>
          <span v-if="entry.used_by.length" class="soft">used by {{ entry.used_by.join(', ') }}</span>
        </button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.shelf {
  display: grid;
  gap: 8px;
}

.least {
  display: grid;
  gap: 6px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  align-items: start;
  border-bottom: 1px solid var(--rule);
  display: grid;
  gap: 6px;
  grid-template-columns: 18px minmax(0, 1fr);
}

li input {
  accent-color: var(--ink);
  margin-top: 10px;
}

li button {
  border-left: 3px solid transparent;
  display: grid;
  font-size: 0.8125rem;
  gap: 1px;
  padding: 6px 8px;
  text-align: left;
  width: 100%;
}

li button.chosen {
  background: var(--paper-raised);
  border-left-color: var(--ink);
}

.line {
  display: flex;
  gap: 8px;
  justify-content: space-between;
}
</style>
