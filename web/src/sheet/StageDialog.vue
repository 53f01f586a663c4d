<script setup lang="ts">
import type { StageComputed } from '@/api/client'
import { useModels } from '@/api/models'
import { useStage, useStages } from '@/api/sheet'
import PlainDialog from '@/components/PlainDialog.vue'
import { engineering, signedPercent } from '@/format/engineering'
import { computed, ref, watch } from 'vue'

/** Ready stages: goal figures in, values with their closed forms out. */
const props = defineProps<{
  chosen: string
  /** Whether the sheet is blank, so that the stage can bring its bench along. */
  blank: boolean
}>()
const emit = defineEmits<{ place: [stage: StageComputed, title: string, bench: boolean]; close: [] }>()

const { data: stages } = useStages()
const models = useModels()
const key = ref(props.chosen)
const search = ref('')
const goals = ref<Record<string, string>>({})
const opAmp = ref<string | null>(null)

const found = computed(() => {
  const wanted = search.value.trim().toLowerCase()
  return stages.value?.filter(({ title, group, purpose }) => `${title} ${group} ${purpose}`.toLowerCase().includes(wanted)) ?? []
})
const stage = computed(() => stages.value?.find((other) => other.key === key.value) ?? stages.value?.[0])
watch(
  () => stage.value?.key,
  (now) => {
    if (now) key.value = now
    goals.value = Object.fromEntries(stage.value?.goals.map((goal) => [goal.symbol, goal.default]) ?? [])
  },
  { immediate: true },
)
/** Goals of the stage that is shown; those of the one before do not belong to it. */
const asked = computed(() => Object.fromEntries(stage.value?.goals.map(({ symbol, default: start }) => [symbol, goals.value[symbol] ?? start]) ?? []))
const computedStage = useStage(() => stage.value?.key ?? 'follower', asked, opAmp)
const result = computed(() => (computedStage.error.value ? undefined : computedStage.data.value))
const amplifies = computed(() => result.value?.parts.some((part) => (part.kind === 'generic' && part.part === 'opamp') || part.kind === 'modelled'))
const opAmps = computed(() => [
  { value: null, title: 'generic, from figures' },
  ...(models.data.value ?? []).filter(({ kind, superseded_by }) => kind === 'op-amp' && !superseded_by).map(({ id, name }) => ({ value: id, title: name.toUpperCase() })),
])

/** What stands around it comes along, where nothing stands there yet. */
const canBring = computed(() => props.blank && Boolean(result.value?.bench))
const brings = ref(true)

function place() {
  if (result.value && stage.value) emit('place', result.value, stage.value.title, canBring.value && brings.value)
}
</script>

<template>
  <PlainDialog title="Ready stages" :width="900" @close="emit('close')">
    <section class="stages">
      <div class="list">
        <v-text-field v-model="search" label="Search stages" hide-details clearable />
        <ul aria-label="Stages">
          <li v-for="other in found" :key="other.key">
            <button type="button" :class="{ chosen: other.key === stage?.key }" @click="key = other.key">{{ other.title }}<small>{{ other.group }}</small></button>
          </li>
          <li v-if="!found.length" class="soft">None is called so.</li>
        </ul>
      </div>
      <form v-if="stage" @submit.prevent="place">
        <h2>{{ stage.title }}</h2>
        <p class="soft">{{ stage.purpose }}</p>
        <div class="goals">
          <v-text-field
            v-for="goal in stage.goals" :key="`${stage.key}.${goal.symbol}`" v-model="goals[goal.symbol]" class="mono" :label="`${goal.title} (${goal.symbol})`"
            :suffix="goal.unit" hide-details maxlength="32" :autofocus="goal === stage.goals[0]"
          />
          <v-select v-if="amplifies" v-model="opAmp" :items="opAmps" label="Op-amp" hide-details />
        </div>
        <p v-if="computedStage.error.value" role="alert" class="wrong">{{ computedStage.error.value.message }}</p>
        <table v-if="result?.chosen.length" class="ruled" aria-label="Values">
          <thead><tr><th>Part</th><th>Closed form</th><th class="number">exact</th><th class="number">chosen</th><th class="number">off by</th><th>Series</th></tr></thead>
          <tbody>
            <tr v-for="line in result.chosen" :key="line.part">
              <td>{{ line.part }}</td><td class="mono form">{{ line.formula }}</td><td class="number">{{ engineering(line.exact, line.unit) }}</td>
              <td class="number">{{ engineering(line.value, line.unit) }}</td><td class="number">{{ signedPercent(line.deviation) }}</td><td class="mono">{{ line.series }}</td>
            </tr>
          </tbody>
        </table>
        <table v-if="result?.reached.length" class="ruled" aria-label="What they come to">
          <thead><tr><th>Goal</th><th>Closed form</th><th class="number">wanted</th><th class="number">reached</th><th class="number">error</th></tr></thead>
          <tbody>
            <tr v-for="line in result.reached" :key="line.symbol">
              <td>{{ line.title }}</td><td class="mono form">{{ line.formula }}</td><td class="number">{{ engineering(line.wanted, line.unit) }}</td>
              <td class="number">{{ engineering(line.reached, line.unit) }}</td><td class="number">{{ signedPercent(line.error) }}</td>
            </tr>
          </tbody>
        </table>
        <p class="soft">Source: {{ stage.source }}.</p>
        <div class="actions">
          <v-btn type="submit" variant="flat" :disabled="!result">Place it</v-btn>
          <label v-if="canBring" class="bench"><input v-model="brings" type="checkbox"> with its bench: supplies, sources, {{ result?.bench?.check.title.toLowerCase() }}{{ result?.bench?.limits.length ? ', limits on its goals' : '' }}</label>
          <v-btn variant="text" @click="emit('close')">Cancel</v-btn>
        </div>
      </form>
    </section>
  </PlainDialog>
</template>

<style scoped>
.bench {
  align-items: center;
  display: flex;
  gap: 6px;
}

.stages {
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  display: grid;
  gap: 20px;
  grid-template-columns: 240px minmax(0, 1fr);
  grid-template-rows: minmax(0, 1fr);
  height: min(84vh, 720px);
  padding: 16px;
}

.list,
form {
  min-height: 0;
  overflow: auto;
}

.list {
  display: flex;
  flex-direction: column;
}

.list :deep(.v-input) {
  flex: none;
}

ul {
  flex: 1;
  list-style: none;
  margin: 8px 0 0;
  overflow: auto;
  padding: 0;
}

li button {
  border-left: 3px solid transparent;
  line-height: 1.3;
  padding: 4px 8px;
  text-align: left;
  width: 100%;
}

li button.chosen {
  background: var(--paper-raised);
  border-left-color: var(--ink);
}

small {
  color: var(--ink-soft);
  display: block;
  font-size: var(--size-small);
}

.goals {
  display: grid;
  gap: 12px;
  grid-template-columns: 1fr 1fr;
  margin: 12px 0;
  padding-top: 6px;
}

p {
  margin: 4px 0;
}

/* However long the tables are, the way on stays in view. */
form .actions {
  background: var(--paper);
  bottom: 0;
  margin: 0;
  padding: 10px 0 2px;
  position: sticky;
}

.form {
  font-size: var(--size-small);
}

.wrong {
  color: var(--breaks);
}
</style>
