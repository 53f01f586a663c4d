<script setup lang="ts">
import type { Choice, Fixture } from '@/api/client'
import { useModels, useParts } from '@/api/models'
import { fetchTyped } from '@/api/sheet'
import { useKinds } from '@/experiments/useKinds'
import { computed, ref } from 'vue'

/** Everything that can be placed, to be picked with the pointer: what one could also type. */
const emit = defineEmits<{ choose: [choice: Choice]; attach: [fixture: Fixture]; trouble: [message: string] }>()

const parts = useParts()
const models = useModels()
const { attachments } = useKinds()
const open = ref(false)
const search = ref('')

interface Entry {
  title: string
  group: string
  typed: string
  key?: string
  /** What stands outside the board edge is attached to a net by a click on it. */
  fixture?: Fixture
}

const SIMPLE: Entry[] = [
  { title: 'Resistor 10k', group: 'Passive', typed: 'r 10k' }, { title: 'Capacitor 100n', group: 'Passive', typed: 'c 100n' },
  { title: 'Inductor 10u', group: 'Passive', typed: 'l 10u' }, { title: 'Ground', group: 'Nets', typed: 'gnd' },
  { title: 'Rail +5V', group: 'Nets', typed: 'rail +5V' }, { title: 'Rail -5V', group: 'Nets', typed: 'rail -5V' },
  { title: 'Name out', group: 'Nets', typed: 'label out' }, { title: 'Name in', group: 'Nets', typed: 'label in' },
]
const entries = computed<Entry[]>(() => [
  ...SIMPLE,
  ...attachments.value.map(({ title, fixture }) => ({ title, group: 'Outside the board', typed: '', fixture })),
  ...(models.data.value ?? []).filter(({ superseded_by }) => !superseded_by).map(({ name }) => ({ title: name.toUpperCase(), group: 'Shelf', typed: name })),
  ...(parts.data.value?.generic ?? [])
    .filter(({ key }) => !['resistor', 'capacitor', 'inductor'].includes(key))
    .map(({ key, title }) => ({ title, group: 'Generic', typed: key, key })),
])
const found = computed(() => {
  const wanted = search.value.trim().toLowerCase()
  return entries.value.filter(({ title, group }) => `${title} ${group}`.toLowerCase().includes(wanted))
})

async function pick(entry: Entry) {
  open.value = false
  if (entry.fixture) return emit('attach', entry.fixture)
  try {
    const choices = await fetchTyped(entry.typed)
    const choice = choices.find(({ key }) => entry.key && key === entry.key) ?? choices[0]
    if (choice) emit('choose', choice)
  } catch (error) {
    emit('trouble', error instanceof Error ? error.message : String(error))
  }
}
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false">
    <template #activator="{ props: menu }"><v-btn size="small" variant="text" v-bind="menu">Parts</v-btn></template>
    <div class="parts-menu" role="dialog" aria-label="Parts">
      <v-text-field v-model="search" label="Search parts" hide-details autofocus />
      <ul aria-label="Parts to place">
        <li v-for="(entry, k) in found" :key="`${entry.group}${entry.title}`">
          <b v-if="entry.group !== found[k - 1]?.group">{{ entry.group }}</b>
          <button type="button" @click="pick(entry)">{{ entry.title }}</button>
        </li>
      </ul>
    </div>
  </v-menu>
</template>

<style scoped>
.parts-menu {
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  box-shadow: 0 4px 14px rgb(0 0 0 / 14%);
  padding: 10px;
  width: 260px;
}

ul {
  list-style: none;
  margin: 8px 0 0;
  max-height: 420px;
  overflow: auto;
  padding: 0;
}

b {
  color: var(--ink-soft);
  display: block;
  font-size: var(--size-small);
  font-weight: 500;
  padding: 6px 8px 2px;
}

.parts-menu button {
  padding: 3px 8px;
  text-align: left;
  width: 100%;
}

.parts-menu button:hover {
  background: color-mix(in srgb, var(--ink) 8%, transparent);
}
</style>
