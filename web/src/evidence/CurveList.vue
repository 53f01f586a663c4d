<script setup lang="ts">
import type { Check, CheckCard, Circuit } from '@/api/client'
import { strokeOf } from '@/plot/strokes'
import { mdiArrowDownBold, mdiArrowUpBold, mdiTrashCanOutline } from '@mdi/js'
import ExpressionField from './ExpressionField.vue'
import { SHOWN_AS, shownAs, wrapper } from './shownAs'

/** The curves of a card: what each shows, as what, and in which pane. */
type Curve = CheckCard['curves'][number]
defineProps<{ boardId: string; circuit: Circuit; check: Check; curves: readonly Curve[] }>()
const active = defineModel<number>('active', { required: true })
const emit = defineEmits<{ change: [curve: number, change: Partial<Curve>, what: string]; drop: [curve: number] }>()
</script>

<template>
  <ol class="curves">
    <li v-for="(curve, k) in curves" :key="k" :class="{ active: k === active }" @pointerdown="active = k">
      <svg width="22" height="8" aria-hidden="true"><path d="M0 4H22" :stroke="`var(${strokeOf(k).token})`" :stroke-dasharray="strokeOf(k).dash.join(' ')" stroke-width="2" /></svg>
      <ExpressionField :board-id="boardId" :circuit="circuit" :check="check" :expression="curve.expression" :label="`Curve ${k + 1}`" @set="(expression) => emit('change', k, { expression }, expression)" />
      <div class="tools">
        <select :value="wrapper(curve.expression)" :aria-label="`Curve ${k + 1} shown as`" @change="emit('change', k, { expression: shownAs(curve.expression, ($event.target as HTMLSelectElement).value) }, 'shown otherwise')">
          <option v-for="[as, title] in SHOWN_AS" :key="as" :value="as">{{ title }}</option>
        </select>
        <button type="button" :disabled="curve.pane === 0" title="Join the pane above" :aria-label="`Join curve ${k + 1} to the pane above`" @click="emit('change', k, { pane: curve.pane - 1 }, 'pane joined')"><v-icon :icon="mdiArrowUpBold" size="15" /></button>
        <button type="button" :disabled="curve.pane === 7" title="Into a pane below" :aria-label="`Split curve ${k + 1} off into a pane below`" @click="emit('change', k, { pane: curve.pane + 1 }, 'pane split')"><v-icon :icon="mdiArrowDownBold" size="15" /></button>
        <button type="button" title="Take it off" :aria-label="`Take curve ${k + 1} off`" @click="emit('drop', k)"><v-icon :icon="mdiTrashCanOutline" size="15" /></button>
      </div>
    </li>
  </ol>
</template>

<style scoped src="./small.css"></style>
<style scoped>
.curves {
  display: flex;
  flex-direction: column;
  gap: 3px;
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  align-items: start;
  border-left: 2px solid transparent;
  /* Of hundreds of curves, only those in view are laid out and painted. */
  contain-intrinsic-height: auto 30px;
  content-visibility: auto;
  display: grid;
  gap: 0 6px;
  grid-template-columns: 22px minmax(0, 1fr) auto;
  padding-left: 3px;
}

/* What can be written in its field is listed beyond the row. */
li:focus-within {
  content-visibility: visible;
}

li > svg {
  margin-top: 10px;
}

li.active {
  border-left-color: var(--accent);
}

.tools {
  align-items: center;
  display: flex;
  gap: 2px;
  padding-top: 2px;
}

select {
  width: 70px;
}

.tools button:disabled {
  opacity: 0.3;
}
</style>
