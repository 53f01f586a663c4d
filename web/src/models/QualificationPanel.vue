<script setup lang="ts">
import type { Kind, ModelDetail } from '@/api/client'
import { onTheBench, useChangeModel, useQualification } from '@/api/models'
import FindingList from '@/components/FindingList.vue'
import { engineering } from '@/format/engineering'
import { computed, ref } from 'vue'
import BadgeMark from './BadgeMark.vue'
import BenchCard from './BenchCard.vue'
import ConditionsForm from './ConditionsForm.vue'
import DataSheetEditor from './DataSheetEditor.vue'
import FigureTable from './FigureTable.vue'

/** A model on the bench: run it, watch it, see its figures beside the data sheet's, and its cards. */
const props = defineProps<{ model: ModelDetail; kind: Kind }>()

const { query, start, cancel } = useQualification(() => props.model.entry.id)
const change = useChangeModel(() => props.model.entry.id)
const view = computed(() => query.data.value)
const running = computed(() => onTheBench(view.value))
const editing = ref<'' | 'sheet' | 'conditions'>('')
const values = computed(() =>
  props.kind.conditions.map((condition) => `${condition.title} ${engineering(props.model.conditions[condition.key] ?? condition.default, condition.unit, 3)}`),
)

async function keep(what: Parameters<typeof change.mutateAsync>[0]) {
  try {
    await change.mutateAsync(what)
    editing.value = ''
    void query.refetch()
  } catch {
    // The refusal is shown from `change.error`.
  }
}
</script>

<template>
  <p v-if="view && !view.bench" class="soft">
    There is no bench for the kind “{{ kind.title }}”. Under <b>Pins</b> another kind can be chosen.
  </p>
  <template v-else-if="view">
    <div class="head">
      <BadgeMark :badge="view.badge" :text="view.badge_text" />
      <span v-if="view.state && !view.current && !running" class="stale">The figures are out of date: pins or conditions have changed since.</span>
      <v-spacer />
      <v-btn variant="text" @click="editing = editing === 'sheet' ? '' : 'sheet'">Data sheet …</v-btn>
      <v-btn variant="text" @click="editing = editing === 'conditions' ? '' : 'conditions'">Conditions …</v-btn>
      <v-btn v-if="running" @click="cancel.mutate()">Cancel</v-btn>
      <v-btn v-else variant="flat" :loading="start.isPending.value" @click="start.mutate()">
        {{ view.state === 'done' && view.current ? 'Measure again' : 'Put it on the bench' }}
      </v-btn>
    </div>
    <p class="soft conditions">Measured with: {{ values.join(', ') }}.</p>
    <div v-if="running" role="status" class="progress">
      <v-progress-linear :model-value="(100 * view.done) / Math.max(view.experiments, 1)" color="primary" height="6" rounded />
      {{ view.done }} of {{ view.experiments }} experiments{{ view.doing ? `: ${view.doing}` : '' }}
    </div>
    <v-alert v-if="start.error.value" type="error" variant="tonal" :text="start.error.value.message" />
    <v-alert v-if="change.error.value" type="error" variant="tonal" :text="change.error.value.message" />
    <v-alert v-if="view.message" type="error" variant="tonal" :text="view.message" />
    <DataSheetEditor
      v-if="editing === 'sheet'" :kind="kind" :lines="model.data_sheet" :busy="change.isPending.value"
      @save="keep({ data_sheet: $event })" @leave="editing = ''"
    />
    <ConditionsForm
      v-if="editing === 'conditions'" :conditions="kind.conditions" :given="model.conditions" :busy="change.isPending.value"
      @save="keep({ conditions: $event })" @leave="editing = ''"
    />
    <p v-if="!view.lines.length && !running" class="soft">
      Not measured yet. The bench finds {{ kind.figures.slice(0, 4).map((figure) => figure.title.toLowerCase()).join(', ') }} and
      {{ kind.figures.length - 4 }} more figures, and puts them beside the data sheet’s.
    </p>
    <div :class="{ faded: !view.current || running }">
      <FindingList v-if="view.findings.length" class="my-2" :findings="view.findings" />
      <FigureTable v-if="view.lines.length" :lines="view.lines" />
      <div v-if="view.cards.length" class="cards">
        <BenchCard v-for="card in view.cards" :key="card.key" :card="card" />
      </div>
    </div>
  </template>
  <v-alert v-if="query.error.value" type="error" variant="tonal" :text="query.error.value.message" />
</template>

<style scoped>
.head {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}

.conditions {
  margin: 4px 0 8px;
}

.stale {
  color: var(--thin);
}

.progress {
  margin: 8px 0;
}

.faded {
  opacity: 0.55;
}

.cards {
  display: grid;
  gap: 14px;
  grid-template-columns: repeat(auto-fill, minmax(360px, 1fr));
  margin-top: 16px;
}
</style>
