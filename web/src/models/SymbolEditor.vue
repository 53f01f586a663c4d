<script setup lang="ts">
import type { ModelSymbol } from '@/api/client'
import { mdiArrowDown, mdiArrowUp } from '@mdi/js'
import { computed, ref } from 'vue'
import SymbolDrawing from './SymbolDrawing.vue'
import { moved, withPin } from './symbolEdits'

/** A model's symbol, to be adjusted: the shape or a box, the sides, the order and the names of its pins. */
const props = defineProps<{ symbol: ModelSymbol; nodes: readonly string[]; roles: readonly string[]; busy?: boolean }>()
const emit = defineEmits<{ save: [symbol: ModelSymbol] }>()

const SIDES = ['left', 'right', 'top', 'bottom'] as const
const draft = ref<ModelSymbol>(props.symbol)
const changed = computed(() => JSON.stringify(draft.value) !== JSON.stringify(props.symbol))
</script>

<template>
  <section class="editor" aria-label="Symbol">
    <div>
      <SymbolDrawing fixed :symbol="draft" :nodes="nodes" :roles="roles" />
      <v-checkbox
        v-if="symbol.shape !== 'box'" :model-value="draft.shape === 'box'" label="Draw it as a box" density="compact" hide-details
        @update:model-value="draft = { ...draft, shape: $event ? 'box' : symbol.shape }"
      />
    </div>
    <div>
      <table class="ruled" aria-label="Pins of the symbol">
        <thead><tr><th>Pin</th><th>Name on the symbol</th><th>Side</th><th>Order</th></tr></thead>
        <tbody>
          <tr v-for="pin in draft.pins" :key="pin.role">
            <td class="mono">{{ pin.role }}</td>
            <td>
              <input
                :value="pin.label" maxlength="24" :aria-label="`Name of ${pin.role}`"
                @input="draft = withPin(draft, pin.role, { label: ($event.target as HTMLInputElement).value })"
              >
            </td>
            <td>
              <v-select
                :model-value="pin.side" :items="SIDES" hide-details :aria-label="`Side of ${pin.role}`"
                @update:model-value="draft = withPin(draft, pin.role, { side: $event })"
              />
            </td>
            <td class="order">
              <v-btn :icon="mdiArrowUp" size="x-small" variant="text" title="Before its neighbour" :aria-label="`Move ${pin.role} up`" @click="draft = moved(draft, pin.role, -1)" />
              <v-btn :icon="mdiArrowDown" size="x-small" variant="text" title="After its neighbour" :aria-label="`Move ${pin.role} down`" @click="draft = moved(draft, pin.role, 1)" />
            </td>
          </tr>
        </tbody>
      </table>
      <div v-if="changed" class="actions">
        <v-btn variant="flat" :loading="busy" @click="emit('save', draft)">Keep the symbol</v-btn>
        <v-btn variant="text" @click="draft = symbol">As it was</v-btn>
      </div>
    </div>
  </section>
</template>

<style scoped>
.editor {
  align-items: start;
  display: grid;
  gap: 20px;
  grid-template-columns: 320px minmax(0, 520px);
}

input {
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  padding: 6px 8px;
  width: 100%;
}

.order {
  white-space: nowrap;
}

table.ruled td {
  padding-bottom: 2px;
  padding-top: 2px;
  vertical-align: middle;
}
</style>
