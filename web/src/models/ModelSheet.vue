<script setup lang="ts">
import type { Board, ModelDetail } from '@/api/client'
import { useModelIntake } from '@/api/queries'
import FindingList from '@/components/FindingList.vue'
import { withModel } from '@/stores/edits'
import { computed, ref } from 'vue'
import ModelText from './ModelText.vue'
import PinTable from './PinTable.vue'
import { proposed, refusal, type Roles } from './roles'

/** A stored model file: where it came from, its pins, its text, and the parts that use it or could. */
const props = defineProps<{ model: ModelDetail; board: Board; edit: (change: (board: Board) => Board) => Promise<void> }>()

const { setRoles } = useModelIntake()
const roles = ref<Roles>({ ...proposed(props.model.reading), ...props.model.roles })
const changed = computed(() => JSON.stringify(roles.value) !== JSON.stringify({ ...proposed(props.model.reading), ...props.model.roles }))
const sound = computed(() => Object.values(roles.value).every((list) => !refusal(list)))
/** Parts of the board with the very pins of a subcircuit. */
function fitting(subcircuit: string) {
  const pins = [...(props.model.roles[subcircuit] ?? [])].sort().join()
  return props.board.circuits
    .flatMap((circuit) => circuit.parts)
    .flatMap((part) => (part.kind === 'modelled' && Object.keys(part.pins).sort().join() === pins ? [part] : []))
}
const uses = (part: ReturnType<typeof fitting>[number], subcircuit: string) =>
  part.model.file === props.model.entry.id && part.model.subcircuit === subcircuit

const trouble = ref('')
async function use(designator: string, subcircuit: string) {
  try {
    await props.edit((board) => withModel(board, designator, { file: props.model.entry.id, subcircuit }))
    trouble.value = ''
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}

const day = computed(() => new Date(props.model.entry.added_at).toLocaleDateString(undefined, { dateStyle: 'medium' }))
</script>

<template>
  <section :aria-label="model.entry.name">
    <h2 class="mono">{{ model.entry.name }}</h2>
    <p class="soft">
      {{ model.entry.source }} <a v-if="/^https?:/.test(model.entry.link)" :href="model.entry.link" rel="noreferrer">{{ model.entry.link }}</a>
      <span v-else>{{ model.entry.link }}</span>
      Stored {{ day }}, SHA-256 <span class="mono">{{ model.entry.sha256.slice(0, 12) }}</span>
    </p>
    <FindingList v-if="model.reading.findings.length" class="my-2" :findings="model.reading.findings" />
    <div v-for="subcircuit in model.reading.subcircuits" :key="subcircuit.name" class="my-3">
      <PinTable
        :subcircuit="subcircuit" :known="model.reading.roles_known" :roles="roles[subcircuit.name] ?? []"
        @change="roles[subcircuit.name] = $event"
      />
      <p v-for="part in fitting(subcircuit.name)" :key="part.designator" class="use">
        <template v-if="uses(part, subcircuit.name)">{{ part.designator }} on this board uses it.</template>
        <v-btn v-else size="small" @click="use(part.designator, subcircuit.name)">Use it for {{ part.designator }}</v-btn>
      </p>
    </div>
    <div v-if="changed" class="actions">
      <v-btn
        variant="flat" :disabled="!sound" :loading="setRoles.isPending.value"
        @click="setRoles.mutate({ id: model.entry.id, roles })"
      >Keep these pins</v-btn>
      <span class="soft">Evidence that rests on this model will be out of date.</span>
    </div>
    <v-alert v-if="setRoles.error.value" type="error" variant="tonal" :text="setRoles.error.value.message" />
    <v-alert v-if="trouble" type="error" variant="tonal" :text="trouble" />
    <ModelText :text="model.reading.text" :findings="model.reading.findings" />
  </section>
</template>

<style scoped>
p {
  margin: 4px 0;
}

.use {
  margin: 10px 0;
}
</style>
