<script setup lang="ts">
import { useModels } from '@/api/models'
import { isActive, useStudy, useVerdict } from '@/api/queries'
import { useVocabulary } from '@/api/trials'
import { STEPS, type Step } from '@/router'
import CommandPalette from '@/palette/CommandPalette.vue'
import { useCommands } from '@/palette/commands'
import { useEditing } from '@/stores/useEditing'
import { mdiChip, mdiGavel, mdiChartBellCurve, mdiArrowExpandHorizontal, mdiDrawPen, mdiMagnify, mdiRedo, mdiUndo } from '@mdi/js'
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'
import { useRouter } from 'vue-router'

/** The frame around a board's pages: the route along the left, undo, and what went wrong with saving. */
const props = defineProps<{ board: string }>()

const editing = useEditing(() => props.board)
const { board: document_ } = editing
const models = useModels()
// What there is to choose from is asked for at once: menus and the palette list it.
useVocabulary()
const study = useStudy(() => props.board, () => document_.value?.studies[0]?.id)
const verdict = useVerdict(() => props.board)

const ICONS: Record<Step, string> = {
  models: mdiChip, sheet: mdiDrawPen, spreads: mdiArrowExpandHorizontal, studies: mdiChartBellCurve, verdict: mdiGavel,
}
const TITLES: Record<Step, string> = {
  models: 'Models', sheet: 'Sheet', spreads: 'Spreads', studies: 'Studies', verdict: 'Verdict',
}

const count = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`

/** How far this board is, one line per step. */
const progress = computed<Record<Step, string>>(() => {
  const board = document_.value
  const parts = board?.circuits.flatMap((circuit) => circuit.parts) ?? []
  const valued = parts.filter((part) => 'value' in part).map(({ designator }) => designator)
  const spread = new Set(board?.spreads.map(({ of }) => of))
  const view = study.data.value
  return {
    models: models.data.value ? count(models.data.value.length, 'model') : '',
    sheet: board ? count(parts.length, 'part') : '',
    spreads: board ? `${valued.filter((name) => spread.has(name)).length} of ${count(valued.length, 'part')}` : '',
    studies: !board?.studies.length
      ? 'none yet'
      : isActive(view)
        ? `${view?.rows_done} of ${count(view?.rows ?? 0, 'row')}`
        : view && !view.current ? 'out of date' : view?.rows_done ? count(view.rows_done, 'row') : 'not run',
    verdict: verdict.data.value ? (verdict.data.value.counts[0]?.state ?? 'no limit') : '',
  }
})

/** Why the last undo or redo was not done. */
const refusal = ref('')
async function step(direction: 'undo' | 'redo') {
  refusal.value = ''
  // Where it is refused, the board is as it was.
  await editing[direction]().catch((error: unknown) => (refusal.value = error instanceof Error ? error.message : String(error)))
}

const router = useRouter()
const palette = useTemplateRef<InstanceType<typeof CommandPalette>>('palette')
useCommands(() => [
  ...STEPS.map((name) => ({ group: 'Go to', title: TITLES[name], run: () => router.push({ name, params: { board: props.board } }) })),
  { group: 'Go to', title: 'All boards', run: () => router.push('/') },
  { group: 'Board', title: `Undo${editing.undoing.value && `: ${editing.undoing.value}`}`, keys: 'Ctrl Z', run: () => step('undo') },
  { group: 'Board', title: `Redo${editing.redoing.value && `: ${editing.redoing.value}`}`, keys: 'Ctrl Shift Z', run: () => step('redo') },
])

function onKey(event: KeyboardEvent) {
  const inField = (event.target as HTMLElement).closest('input, textarea, [contenteditable]')
  if (inField || !(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return
  event.preventDefault()
  void step(event.shiftKey ? 'redo' : 'undo')
}
onMounted(() => window.addEventListener('keydown', onKey))
onBeforeUnmount(() => window.removeEventListener('keydown', onKey))
</script>

<template>
  <v-main class="frame">
    <nav aria-label="Steps of the work">
      <router-link class="home" to="/" title="All boards">
        <img src="/icon.svg" alt="" width="26" height="26"> Verdad
      </router-link>
      <p class="board-title">{{ document_?.title }}</p>
      <div class="undo">
        <v-btn
          :icon="mdiUndo" size="small" variant="text" :title="`Undo (Ctrl Z)${editing.undoing.value && `: ${editing.undoing.value}`}`" aria-label="Undo"
          :disabled="!editing.canUndo.value" @click="step('undo')"
        />
        <v-btn
          :icon="mdiRedo" size="small" variant="text" :title="`Redo (Ctrl Shift Z)${editing.redoing.value && `: ${editing.redoing.value}`}`" aria-label="Redo"
          :disabled="!editing.canRedo.value" @click="step('redo')"
        />
        <v-btn :icon="mdiMagnify" size="small" variant="text" title="Everything that can be done (Ctrl K)" aria-label="Everything that can be done" @click="palette?.show()" />
        <small class="soft" aria-live="polite" :data-saving="editing.saving.value">{{ editing.saving.value ? 'saving' : 'saved' }}</small>
      </div>
      <ol>
        <li v-for="name in STEPS" :key="name">
          <router-link :to="{ name, params: { board } }" class="step">
            <v-icon :icon="ICONS[name]" size="20" />
            <span>{{ TITLES[name] }}<small>{{ progress[name] }}</small></span>
          </router-link>
        </li>
      </ol>
    </nav>
    <div class="page">
      <v-alert v-if="editing.conflict.value" type="warning" variant="tonal" class="mb-3" :text="editing.conflict.value">
        <template #append>
          <v-btn size="small" class="mr-2" @click="editing.resolve(false)">Keep what is there</v-btn>
          <v-btn size="small" @click="editing.resolve(true)">Put mine on top</v-btn>
        </template>
      </v-alert>
      <v-alert v-if="editing.trouble.value" type="warning" variant="tonal" density="compact" class="mb-3" :text="`Not saved yet: ${editing.trouble.value} It is tried again by itself.`" />
      <v-alert v-if="refusal" type="warning" variant="tonal" density="compact" closable class="mb-3" :text="refusal" @click:close="refusal = ''" />
      <v-alert v-if="editing.error.value" type="error" variant="tonal" :text="editing.error.value.message" />
      <p v-else-if="editing.loading.value" class="soft">Reading the board …</p>
      <router-view v-else-if="document_" :key="board" v-slot="{ Component }">
        <component :is="Component" :board-id="board" :board="document_" :revision="editing.revision.value" :saving="editing.saving.value" :edit="editing.edit" />
      </router-view>
    </div>
    <CommandPalette ref="palette" />
  </v-main>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template-columns: 11rem minmax(0, 1fr);
  /* A row that is as high as the window whatever it holds: nothing is measured before it is laid out. A change
     anywhere on a page would otherwise lay out the whole drawing twice. */
  grid-template-rows: minmax(0, 1fr);
  height: 100vh;
}

nav {
  background: var(--paper-sunk);
  border-right: 1px solid var(--rule);
  display: flex;
  flex-direction: column;
  padding: 14px 10px;
}

.home {
  align-items: center;
  color: var(--ink);
  display: flex;
  font-size: var(--size-lead);
  font-weight: 600;
  gap: 8px;
  padding: 0 6px;
  text-decoration: none;
}

.board-title {
  color: var(--ink-soft);
  line-height: 1.35;
  margin: 12px 6px 6px;
}

.undo {
  align-items: center;
  display: flex;
  margin-bottom: 10px;
}

ol {
  list-style: none;
  margin: 0;
  padding: 0;
}

.step {
  align-items: flex-start;
  border-left: 3px solid transparent;
  color: var(--ink-text);
  display: flex;
  gap: 10px;
  padding: 9px 6px;
  text-decoration: none;
}

.step small {
  color: var(--ink-soft);
  display: block;
  font-size: var(--size-small);
}

.step:hover {
  background: color-mix(in srgb, var(--ink) 7%, transparent);
}

.step.router-link-active {
  background: var(--paper);
  border-left-color: var(--accent);
  font-weight: 600;
}

.step.router-link-active small {
  font-weight: 400;
}

.page {
  overflow: auto;
  padding: 14px 18px;
}

@media print {
  nav {
    display: none;
  }

  .frame {
    display: block;
    height: auto;
  }
}
</style>
