<script setup lang="ts">
import type { Board, Circuit, Part } from '@/api/client'
import { useParts } from '@/api/models'
import { computed, ref, watch } from 'vue'
import { netByEnd, pinOf } from './ends'

/** The part that is selected: what it is, the nets of its pins, and what of it can be set. */
const props = defineProps<{
  board: Board
  circuit: Circuit
  part: Part
  /** Stores the part in another form; rejects with the reason. */
  change: (part: Part, what: string) => Promise<void>
}>()

const parts = useParts()
const nets = computed(() => [...netByEnd([props.part])].map(([end, net]) => ({ pin: pinOf(end), net })))
const spread = computed(() => props.board.spreads.find(({ part }) => part === props.part.designator))
const generic = computed(() => {
  const { part } = props
  return part.kind === 'generic' ? parts.data.value?.generic.find(({ key }) => key === part.part) : undefined
})
const title = computed(() => {
  const { part } = props
  if (part.kind === 'modelled') return part.model.name.toUpperCase()
  if (part.kind === 'generic') return generic.value?.title ?? part.part
  return part.kind
})
const settings = computed(() => (props.part.kind === 'generic' || props.part.kind === 'modelled' ? (props.part.settings ?? {}) : {}))

/** What is being typed, by the name of the parameter, and why it was refused. */
const drafts = ref<Record<string, string>>({})
const refusal = ref('')
watch(() => props.part, () => {
  drafts.value = {}
  refusal.value = ''
})

async function store(next: Part, what: string) {
  refusal.value = ''
  try {
    await props.change(next, what)
  } catch (error) {
    refusal.value = error instanceof Error ? error.message : String(error)
  }
}

function set(name: string) {
  const { part } = props
  const text = drafts.value[name]?.trim()
  if (text === undefined || (part.kind !== 'generic' && part.kind !== 'modelled')) return
  const others = Object.fromEntries(Object.entries(part.settings ?? {}).filter(([key]) => key !== name))
  void store({ ...part, settings: text ? { ...others, [name]: text } : others }, `${part.designator}, ${name}: ${text || 'as by default'}`)
}

function setText(text: string) {
  const { part } = props
  if (part.kind === 'statement' && text !== part.text) void store({ ...part, text }, `${part.designator} set to ${text.slice(0, 40)}`)
}
</script>

<template>
  <section class="part-card" :aria-label="`Part ${part.designator}`">
    <h2>{{ part.designator }} <small class="soft">{{ title }}</small></h2>
    <p class="nets mono"><span v-for="{ pin, net } in nets" :key="pin">{{ pin }} <b>{{ net }}</b></span></p>
    <p v-if="'value' in part" class="soft">{{ part.value || 'no value' }}{{ spread ? `, ±${spread.tolerance} %` : ', no spread yet' }}. Press Enter on the sheet to change it.</p>
    <p v-if="refusal" role="alert" class="wrong">{{ refusal }}</p>
    <label v-if="part.kind === 'statement'">Statement
      <input class="mono" :value="part.text" maxlength="2000" @change="setText(($event.target as HTMLInputElement).value)">
    </label>
    <div v-if="generic?.settings.length" class="settings">
      <label v-for="setting in generic.settings" :key="setting.name" :title="setting.meaning">
        <span class="mono">{{ setting.name }}</span>
        <input
          class="mono" maxlength="32" :placeholder="setting.default" :value="drafts[setting.name] ?? settings[setting.name] ?? ''" :aria-label="`${setting.name} of ${part.designator}`"
          @input="drafts[setting.name] = ($event.target as HTMLInputElement).value" @change="set(setting.name)"
        >
        <span class="soft">{{ setting.unit }}</span>
      </label>
    </div>
  </section>
</template>

<style scoped>
.part-card {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  flex: none;
  padding: 10px 14px;
}

small {
  font-weight: 400;
}

p {
  font-size: 0.8125rem;
  margin: 4px 0 0;
}

.nets {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}

.settings {
  display: grid;
  gap: 3px 12px;
  grid-template-columns: 1fr 1fr;
  margin-top: 8px;
  max-height: 190px;
  overflow: auto;
}

label {
  align-items: baseline;
  display: flex;
  font-size: var(--size-small);
  gap: 6px;
  margin-top: 4px;
}

.settings label {
  display: grid;
  grid-template-columns: 62px minmax(0, 1fr) 24px;
  margin: 0;
}

input {
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  color: inherit;
  min-width: 0;
  padding: 2px 6px;
  width: 100%;
}

.wrong {
  color: var(--breaks);
}
</style>
