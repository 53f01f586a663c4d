<script setup lang="ts">
import type { Board, ModelDetail, ModelEntry } from '@/api/client'
import { useChangeModel, useKinds, useRemoveModel } from '@/api/models'
import FindingList from '@/components/FindingList.vue'
import { withModel } from '@/stores/edits'
import { mdiDownload, mdiTrashCanOutline } from '@mdi/js'
import { computed, ref } from 'vue'
import DifferenceView from './DifferenceView.vue'
import ModelText from './ModelText.vue'
import QualificationPanel from './QualificationPanel.vue'
import StoredPins from './StoredPins.vue'
import SymbolEditor from './SymbolEditor.vue'

/** A model on the shelf: the bench, its pins, its symbol, its text, where it came from and what changed since. */
const props = defineProps<{
  model: ModelDetail
  shelf: ModelEntry[]
  board: Board
  edit: (change: (board: Board) => Board, what?: string) => Promise<void>
}>()
const emit = defineEmits<{ open: [id: string]; removed: [] }>()

const tab = ref<'bench' | 'pins' | 'symbol' | 'text' | 'versions'>('bench')
const { data: kinds } = useKinds()
const change = useChangeModel(() => props.model.entry.id)
const remove = useRemoveModel()
const kind = computed(() => kinds.value?.find((other) => other.key === props.model.entry.kind))

/** Parts of the board with the very pins of this model. */
const fitting = computed(() => {
  const pins = [...props.model.roles].sort().join()
  return props.board.circuits
    .flatMap((circuit) => circuit.parts)
    .flatMap((part) => (part.kind === 'modelled' && Object.keys(part.pins).sort().join() === pins ? [part] : []))
})
const other = (id: string | null) => props.shelf.find((entry) => entry.id === id)

const trouble = ref('')
async function use(designator: string) {
  try {
    const { id, name } = props.model.entry
    await props.edit((board) => withModel(board, designator, { id, name }), `${designator} given ${name}`)
    trouble.value = ''
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}

async function takeOff() {
  try {
    await remove.mutateAsync(props.model.entry.id)
    emit('removed')
  } catch {
    // The refusal is shown from `remove.error`.
  }
}

const day = (text: string) => new Date(text).toLocaleDateString(undefined, { dateStyle: 'medium' })
</script>

<template>
  <section :aria-label="model.entry.name.toUpperCase()">
    <div class="head">
      <h2 class="mono">{{ model.entry.name.toUpperCase() }}</h2>
      <span class="soft">{{ kind?.title }}</span>
      <v-spacer />
      <v-btn :href="`/api/models/${model.entry.id}/export`" size="small" variant="text" :prepend-icon="mdiDownload" title="The files with the report, as a .zip">Export</v-btn>
      <v-btn size="small" variant="text" :prepend-icon="mdiTrashCanOutline" :disabled="model.entry.used_by.length > 0" @click="takeOff">Remove</v-btn>
    </div>
    <p class="soft origin">
      {{ model.entry.source }}
      <a v-if="/^https?:/.test(model.entry.link)" :href="model.entry.link" target="_blank" rel="noreferrer">{{ model.entry.link }}</a>
      <span v-else>{{ model.entry.link }}</span>
      · obtained {{ day(model.entry.obtained_on) }}<template v-if="model.entry.obtained_by"> by {{ model.entry.obtained_by }}</template>
      · SHA-256 <span class="mono" :title="model.sha256">{{ model.sha256.slice(0, 12) }}</span>
    </p>
    <v-alert v-if="model.entry.superseded_by" type="warning" variant="tonal" density="compact" class="my-2">
      A newer version is on the shelf.
      <a href="#" @click.prevent="emit('open', model.entry.superseded_by)">Look at it</a>
    </v-alert>
    <v-alert v-if="remove.error.value" type="error" variant="tonal" :text="remove.error.value.message" />
    <p v-for="part in fitting" :key="part.designator" class="use">
      <template v-if="part.model.id === model.entry.id">{{ part.designator }} on this board uses it.</template>
      <v-btn v-else size="small" @click="use(part.designator)">Use it for {{ part.designator }}</v-btn>
    </p>
    <v-alert v-if="trouble" type="error" variant="tonal" :text="trouble" />
    <v-tabs v-model="tab" density="compact" color="primary" class="mb-3">
      <v-tab value="bench">Bench</v-tab>
      <v-tab value="pins">Pins</v-tab>
      <v-tab value="symbol">Symbol</v-tab>
      <v-tab value="text">Text<template v-if="model.findings.length"> ({{ model.findings.length }})</template></v-tab>
      <v-tab v-if="model.entry.supersedes" value="versions">What changed</v-tab>
    </v-tabs>
    <QualificationPanel v-if="tab === 'bench' && kind" :model="model" :kind="kind" />
    <StoredPins v-else-if="tab === 'pins'" :model="model" />
    <template v-else-if="tab === 'symbol'">
      <SymbolEditor
        :key="JSON.stringify(model.symbol)" :symbol="model.symbol" :nodes="model.nodes" :roles="model.roles" :busy="change.isPending.value"
        @save="change.mutate({ symbol: $event })"
      />
      <v-alert v-if="change.error.value" type="error" variant="tonal" :text="change.error.value.message" />
    </template>
    <template v-else-if="tab === 'text'">
      <p v-if="model.terms" class="terms"><b>Terms of use:</b> {{ model.terms }}</p>
      <FindingList v-if="model.findings.length" class="my-2" :findings="model.findings.slice(0, 6)" />
      <ModelText :files="model.files" :findings="model.findings" :at="{ file: model.entry.file, line: model.line }" />
    </template>
    <template v-else-if="tab === 'versions' && model.entry.supersedes">
      <p class="soft">
        Since the version of {{ day(other(model.entry.supersedes)?.obtained_on ?? model.entry.obtained_on) }} ({{ other(model.entry.supersedes)?.source }}).
        <a href="#" @click.prevent="emit('open', model.entry.supersedes)">Look at that one</a>
      </p>
      <DifferenceView :model="model.entry.id" :since="model.entry.supersedes" />
    </template>
  </section>
</template>

<style scoped>
.head {
  align-items: center;
  display: flex;
  gap: 12px;
}

p {
  margin: 4px 0;
}

.origin {
  line-height: 1.4;
}

.use {
  margin: 6px 0;
}

.terms {
  white-space: pre-line;
}
</style>
