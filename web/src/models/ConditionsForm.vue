<script setup lang="ts">
import type { Kind } from '@/api/client'
import { tick } from '@/format/engineering'
import { ref } from 'vue'
import { bound } from './shelf'

/** The conditions that the bench is set to, with prefixes; an empty field is the default. */
const props = defineProps<{ conditions: Kind['conditions']; given: Record<string, number>; busy?: boolean }>()
const emit = defineEmits<{ save: [given: Record<string, number>]; leave: [] }>()

const draft = ref<Record<string, string>>(Object.fromEntries(Object.entries(props.given).map(([key, value]) => [key, tick(value)])))

function save() {
  const given = Object.entries(draft.value).filter(([, text]) => text.trim() !== '').map(([key, text]) => [key, bound(text) ?? NaN] as const)
  emit('save', Object.fromEntries(given))
}
const wrong = (key: string) => (draft.value[key] ?? '').trim() !== '' && bound(draft.value[key] ?? '') === null
</script>

<template>
  <form class="conditions" aria-label="Conditions of the bench" @submit.prevent="save">
    <v-text-field
      v-for="condition in conditions" :key="condition.key" v-model="draft[condition.key]" class="mono"
      :label="condition.title" :suffix="condition.unit" :placeholder="tick(condition.default)" persistent-placeholder
      :error="wrong(condition.key)" hide-details
    />
    <div class="actions">
      <v-btn variant="text" @click="emit('leave')">Cancel</v-btn>
      <v-btn type="submit" variant="flat" :loading="busy" :disabled="conditions.some((c) => wrong(c.key))">Keep the conditions</v-btn>
    </div>
  </form>
</template>

<style scoped>
.conditions {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  display: grid;
  gap: 12px;
  grid-template-columns: repeat(auto-fill, minmax(210px, 1fr));
  margin: 10px 0;
  padding: 14px;
}

.actions {
  margin: 0;
}
</style>
