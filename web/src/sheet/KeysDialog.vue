<script setup lang="ts">
import PlainDialog from '@/components/PlainDialog.vue'
/** What the keys do on the sheet. */
defineEmits<{ close: [] }>()

const KEYS: [string, string][] = [
  ['any letter', 'place by typing: r 4k7 1%, c 100n x7r, l 10u, q, d, gnd, rail +5V, label vref, note ..., a model’s or a stage’s name'],
  ['source in 50', 'outside the board edge: a source, supply +5V 5, load out 10k'],
  ['wire R1.2 U1.in+', 'a wire between two pins by name'],
  ['arrows', 'move what is held or selected, or else the cursor; with Shift five steps'],
  ['Ctrl arrows', 'hop to the next pin in that direction'],
  ['Enter', 'put down what is held; begin or end a wire at the cursor; change the selected part’s value'],
  ['Space, Shift Space', 'a quarter turn; mirror'],
  ['Page Down, Page Up', 'select the next part, the one before'],
  ['Delete', 'remove what is selected'],
  ['Ctrl C, X, V, D', 'copy, cut, paste (between circuits and boards too), duplicate'],
  ['Ctrl A, Esc', 'select everything; give up'],
  ['Ctrl Z, Ctrl Shift Z', 'undo, redo'],
  ['Ctrl K', 'find everything that can be done by its name'],
  ['Alt L, Ctrl click', 'look: a click shows a net’s volts or a pin’s amperes, a drag from net to net the difference'],
  ['Home', 'show the whole sheet'],
  ['wheel, Ctrl wheel', 'move the sheet; zoom'],
]
</script>

<template>
  <PlainDialog title="Keys" :width="640" @close="$emit('close')">
    <section class="keys">
      <h2>Keys</h2>
      <table class="ruled">
        <tbody><tr v-for="[key, meaning] in KEYS" :key="key"><td class="mono">{{ key }}</td><td>{{ meaning }}</td></tr></tbody>
      </table>
      <p class="soft">With the pointer: drag from a pin for a wire, across the board edge for a supply, source or load there, drag a part or a piece of a wire to move it, drag over the paper to select; Alt and a click on a wire begins a branch there.</p>
      <div class="actions"><v-btn variant="text" autofocus @click="$emit('close')">Close</v-btn></div>
    </section>
  </PlainDialog>
</template>

<style scoped>
.keys {
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  max-height: 86vh;
  overflow: auto;
  padding: 16px;
}

td:first-child {
  white-space: nowrap;
}
</style>
