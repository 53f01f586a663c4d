<script setup lang="ts">
import type { Board, Study } from '@/api/client'
import { isActive, useRunControl, useStudy } from '@/api/queries'
import { useQuantities, useVocabulary } from '@/api/trials'
import { studyChoices } from '@/experiments/choices'
import FieldRow from '@/forms/FieldRow.vue'
import SettingsForm from '@/forms/SettingsForm.vue'
import { withCopiedStudy, withStudy } from '@/stores/edits'
import type { Change } from '@/stores/useEditing'
import { mdiPlay, mdiStop } from '@mdi/js'
import { asTurned, openRow } from '@/trim/opened'
import { computed, ref, watchEffect } from 'vue'
import { useRouter } from 'vue-router'
import StudyEvidence from './StudyEvidence.vue'

/** One study: its settings, its run, and what its rows say. */
const props = defineProps<{ boardId: string; board: Board; study: Study; saving: boolean; edit: (change: Change, what: string) => Promise<void> }>()
const emit = defineEmits<{ chosen: [study: string] }>()

const vocabulary = useVocabulary()
const entry = computed(() => vocabulary.data.value?.studies.find(({ kind }) => kind === props.study.kind))
const quantities = useQuantities(() => props.boardId, () => props.study.checks[0], true)
const choices = computed(() => studyChoices(props.board, quantities.data.value ?? []))
// The service knows of a study once it is saved; what it said of it stays while another edit is on its way.
const known = ref<string>()
watchEffect(() => {
  if (!props.saving) known.value = props.study.id
})
const { data: view, error } = useStudy(() => props.boardId, known)
const control = useRunControl(() => props.boardId, () => props.study.id)
const active = computed(() => isActive(view.value))
const upToDate = computed(() => !props.saving && view.value?.current === true && view.value.rows_done === view.value.rows)

const trouble = ref('')
async function change(next: Change, what: string) {
  trouble.value = ''
  await props.edit(next, what).catch((problem: unknown) => (trouble.value = problem instanceof Error ? problem.message : String(problem)))
}
/** The last setting on its way: a run begins when it is saved. */
let storing: Promise<unknown> = Promise.resolve()
function set(changes: Record<string, unknown>, what: string) {
  const stored = props.edit((board) => withStudy(board, props.study.id, changes), `${props.study.title}: ${what}`)
  storing = stored.catch(() => undefined)
  return stored
}
async function start() {
  await storing
  control.start.mutate()
}
/** A name that was refused, which stays to be mended. */
const wrongName = ref<{ typed: string; why: string }>()
async function rename(title: string) {
  try {
    await props.edit((board) => withStudy(board, props.study.id, { title }), `study called ${title}`)
    wrongName.value = undefined
  } catch (problem) {
    wrongName.value = { typed: title, why: problem instanceof Error ? problem.message : String(problem) }
  }
}
async function copy() {
  let id = ''
  const stored = change((board) => {
    const copied = withCopiedStudy(board, props.study)
    id = copied.id
    return copied.board
  }, `${props.study.title} copied`)
  // It is shown already: what is done next is done to the copy.
  emit('chosen', id)
  await stored
}
const remove = () => change((board) => ({ ...board, studies: board.studies.filter(({ id }) => id !== props.study.id) }), `${props.study.title} removed`)

const router = useRouter()
function openOnSheet(check: string, row: number, values: Record<string, number>) {
  const turned = Object.fromEntries(Object.entries(values).map(([name, value]) => [name, asTurned(value)]))
  openRow({ check, title: `Row ${row + 1} of ${props.study.title}.`, values: turned })
  void router.push({ name: 'sheet' })
}

const state = computed(() => {
  const now = view.value
  if (!now || active.value) return undefined
  if (now.trouble) return { type: 'error' as const, text: now.trouble }
  if (!now.current) return { type: 'warning' as const, text: 'Out of date: the circuit, its models, checks or spreads have changed since this run. Run it again for current evidence.' }
  if (now.run?.state === 'failed') return { type: 'error' as const, text: now.run.message }
  if (!now.rows_done) return { type: 'info' as const, text: 'Not run yet.' }
  if (now.rows_done < now.rows) return { type: 'warning' as const, text: `${now.rows_done} of ${now.rows} rows are computed; they are shown below.` }
  return undefined
})
</script>

<template>
  <div class="panel">
    <section class="form" :aria-label="`Settings of ${study.title}`">
      <FieldRow label="Name" :value="wrongName?.typed ?? study.title" :limit="120" :wrong="Boolean(wrongName)" @set="rename" />
      <p v-if="wrongName" class="wrong" role="alert">{{ wrongName.why }}</p>
      <SettingsForm v-if="entry" :key="study.id" :schema="entry.settings" :values="study" :choices="choices" :set="set" />
      <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
      <div class="actions">
        <v-btn v-if="!active" variant="flat" :prepend-icon="mdiPlay" :loading="control.start.isPending.value" :disabled="upToDate || Boolean(view?.trouble)" @click="start">
          {{ view?.rows_done ? 'Run again' : 'Run' }}
        </v-btn>
        <v-btn v-else :prepend-icon="mdiStop" color="secondary" @click="control.cancel.mutate()">Cancel</v-btn>
        <v-btn size="small" variant="text" @click="copy">Copy it</v-btn>
        <v-btn size="small" variant="text" title="Its rows are kept as long as the board's revisions know of it" @click="remove">Remove it</v-btn>
      </div>
      <div v-if="active && view" class="progress" role="status">
        <v-progress-linear :model-value="(100 * view.rows_done) / view.rows" color="secondary" height="6" rounded aria-label="Rows done" />
        <span class="mono">{{ view.rows_done }} of {{ view.rows }} rows{{ view.run?.seconds_left == null ? '' : `, about ${Math.ceil(view.run.seconds_left)} s left` }}</span>
      </div>
      <p v-else-if="upToDate" class="soft">Up to date.</p>
      <p v-if="entry" class="soft">{{ entry.meaning }}</p>
    </section>
    <div>
      <v-alert v-if="control.start.error.value" type="error" variant="tonal" class="mb-3" :text="control.start.error.value.message" />
      <v-alert v-if="error" type="error" variant="tonal" :text="error.message" />
      <v-alert v-else-if="state" density="compact" variant="tonal" class="mb-3" :type="state.type" :text="state.text" />
      <p v-if="view && !view.columns.length && !view.trouble" class="soft">Its checks measure nothing yet. Measure something on the sheet first.</p>
      <StudyEvidence v-if="view && view.rows_done && view.columns.length" :key="study.id" :board-id="boardId" :view="view" :beside="board.studies.find(({ kind, checks }) => kind === 'monte carlo' && checks.some((check) => study.checks.includes(check)))?.id" :edit="edit" @open="openOnSheet" />
    </div>
  </div>
</template>

<style scoped src="@/forms/form.css"></style>
<style scoped>
.panel {
  align-items: start;
  display: grid;
  gap: 18px;
  grid-template-columns: 20rem minmax(0, 1fr);
}

.actions {
  align-items: center;
  display: flex;
  gap: 6px;
  margin: 6px 0 0;
}

.progress span {
  font-size: var(--size-small);
}
</style>
