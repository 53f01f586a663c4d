<script setup lang="ts">
import type { Kind, ModelFile, Reading } from '@/api/client'
import { useTrial } from '@/api/models'
import { mdiAlertOutline, mdiCheckCircleOutline } from '@mdi/js'
import { computed } from 'vue'
import { assigned, missing, refusal } from './roles'
import SymbolDrawing from './SymbolDrawing.vue'

/** A model's nodes with their roles: proposed with reasons, corrected by dragging or typing, shown by their effect. */
const props = defineProps<{
  files: ModelFile[]
  file: string
  name: string
  nodes: readonly string[]
  roles: readonly string[]
  kind: Kind
  pins?: Reading['entries'][number]['entry']['pins']
}>()
const emit = defineEmits<{ change: [roles: string[]] }>()

const wrong = computed(() => refusal(props.roles))
const absent = computed(() => missing(props.roles, props.kind.roles))
const trial = useTrial(() =>
  wrong.value ? null : { files: props.files, file: props.file, name: props.name, kind: props.kind.key, roles: [...props.roles] },
)
const known = computed(() => [...props.kind.roles, ...props.kind.more])

const SURE: Record<string, string> = {
  'shown on the bench': 'shown', 'said in the file': 'said', likely: 'likely', guess: 'guess', unknown: 'unsure',
}

function set(index: number, role: unknown) {
  const text = String(role ?? '').trim()
  if (text !== props.roles[index]) emit('change', assigned(props.roles, index, text))
}
</script>

<template>
  <div class="assignment">
    <div class="seen">
      <SymbolDrawing
        v-if="trial.data.value" :symbol="trial.data.value.symbol" :nodes="nodes" :roles="roles"
        @exchange="(index, role) => emit('change', assigned(roles, index, role))"
      />
      <div v-else class="blank soft">{{ wrong ? 'No symbol with these pins' : 'Drawing the symbol …' }}</div>
      <p v-if="trial.data.value?.effect" class="effect" :class="{ off: !trial.data.value.effect.right }" role="status">
        <v-icon :icon="trial.data.value.effect.right ? mdiCheckCircleOutline : mdiAlertOutline" size="18" />
        {{ trial.data.value.effect.sentence }}
      </p>
      <p v-else-if="trial.isFetching.value" class="soft effect">Trying it out …</p>
      <p v-if="trial.error.value" class="effect off">{{ trial.error.value.message }}</p>
    </div>
    <div class="table" :class="{ narrow: !pins }">
      <table class="ruled" :aria-label="`Pins of ${name}`">
        <thead>
          <tr><th>Node</th><th class="role">Pin</th><th v-if="pins">Why</th></tr>
        </thead>
        <tbody>
          <tr v-for="(node, k) in nodes" :key="node">
            <td class="mono">{{ node }}</td>
            <td class="role">
              <v-combobox
                :model-value="roles[k]" :items="known" variant="outlined" density="compact" hide-details class="mono"
                :aria-label="`Pin of node ${node}`" @update:model-value="set(k, $event)"
              />
            </td>
            <td v-if="pins" class="why">
              <template v-if="pins[k]">
                <b :class="SURE[pins[k].sureness]">{{ pins[k].sureness }}</b>{{ pins[k].reason ? `: ${pins[k].reason}` : '' }}
              </template>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="wrong" role="alert" class="refusal">{{ wrong }}</p>
      <p v-else-if="absent.length" class="refusal">
        A {{ kind.title }} also has the pin{{ absent.length > 1 ? 's' : '' }} {{ absent.join(', ') }}: without {{ absent.length > 1 ? 'them' : 'it' }} there is no bench.
      </p>
    </div>
  </div>
</template>

<style scoped>
.assignment {
  align-items: start;
  display: grid;
  gap: 20px;
  grid-template-columns: 320px minmax(0, 1fr);
}

.blank {
  border: 1px dashed var(--rule);
  display: grid;
  height: 230px;
  place-items: center;
}

.effect {
  color: var(--holds);
  line-height: 1.4;
  margin: 8px 0 0;
}

.off,
.refusal {
  color: var(--breaks);
}

.refusal {
  margin: 6px 0;
}

.narrow {
  max-width: 280px;
}

.role {
  width: 150px;
}

.why b {
  font-weight: 600;
}

.shown {
  color: var(--holds);
}

.guess,
.unsure {
  color: var(--thin);
}

table.ruled td {
  line-height: 1.35;
  padding-bottom: 2px;
  padding-top: 2px;
  vertical-align: middle;
}
</style>
