<script setup lang="ts">
import type { Board, CheckView, Circuit, Part } from '@/api/client'
import { engineering } from '@/format/engineering'
import { useParts } from '@/api/models'
import { amountText } from '@/stores/spreads'
import { computed, ref, watch } from 'vue'
import { netByEnd, pinOf } from './ends'

/** The part that is selected: what it is, the nets of its pins, and what of it can be set. */
const props = defineProps<{
  board: Board
  circuit: Circuit
  part: Part
  rest: CheckView['at_rest'] | undefined
  /** Stores the part in another form; rejects with the reason. */
  change: (part: Part, what: string) => Promise<void>
  /** Calls the part otherwise; rejects with the reason. */
  rename: (part: Part, name: string) => Promise<void>
}>()

const emit = defineEmits<{ trim: [quantity: string] }>()

const parts = useParts()
const nets = computed(() => [...netByEnd([props.part])].map(([end, net]) => ({ pin: pinOf(end), net })))
const spread = computed(() => props.board.spreads.find(({ of }) => of === props.part.designator))
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
watch(() => ({ of: props.part.designator, texts: { ...settings.value } }), (now, before) => {
  if (now.of !== before.of) refusal.value = ''
  // What is being typed stays, whatever is stored meanwhile, unless it is that very text.
  drafts.value = now.of === before.of ? Object.fromEntries(Object.entries(drafts.value).filter(([name]) => now.texts[name] === before.texts[name])) : {}
})

async function safely(action: () => Promise<void>): Promise<boolean> {
  refusal.value = ''
  try {
    await action()
    return true
  } catch (error) {
    refusal.value = error instanceof Error ? error.message : String(error)
    return false
  }
}
const store = (next: Part, what: string) => safely(() => props.change(next, what))

async function call(event: Event) {
  const field = event.target as HTMLInputElement
  const { part } = props
  const name = field.value.trim().toUpperCase()
  if (!name || name === part.designator || !(await safely(() => props.rename(part, name)))) field.value = part.designator
}

function set(name: string) {
  const { part } = props
  const text = drafts.value[name]?.trim()
  if (text === undefined || (part.kind !== 'generic' && part.kind !== 'modelled')) return
  const others = Object.fromEntries(Object.entries(part.settings ?? {}).filter(([key]) => key !== name))
  void store({ ...part, settings: text ? { ...others, [name]: text } : others }, `${part.designator}, ${name}: ${text || 'as by default'}`)
}

// What it bears at rest, and what it may bear.

const RATINGS = [['power', 'W', 'watts that it may take'], ['voltage', 'V', 'volts between any two of its pins'], ['current', 'A', 'amperes into any of its pins']] as const
const watts = computed(() => props.rest?.powers[props.part.designator])
const standings = computed(() => props.rest?.standings.filter(({ part }) => part === props.part.designator) ?? [])
function rate(what: (typeof RATINGS)[number][0], text: string) {
  const { part } = props
  const rating = { ...part.rating, [what]: text.trim() || null }
  const none = Object.values(rating).every((value) => !value)
  void store({ ...part, rating: none ? null : rating } as Part, `${part.designator}, ${what} rating ${text || 'none'}`)
}

/** How it follows temperature, and how much warmer it is than what is around it. */
const WARMTH = [['tempco', '/°C', 'Linear temperature coefficient, from 27 °C: 100ppm or 0.01', '100ppm'], ['tempco2', '/°C²', 'Quadratic temperature coefficient', '–'], ['rise', '°C', 'How much warmer it is than what is around it', '0']] as const
type Warm = { [name in (typeof WARMTH)[number][0]]?: string | null }
const warmth = computed(() => WARMTH.filter(([name]) => name in props.part))
function warm(name: (typeof WARMTH)[number][0], text: string) {
  void store({ ...props.part, [name]: text.trim() || null } as Part, `${props.part.designator}, ${name} ${text || 'none'}`)
}

function setText(text: string) {
  const { part } = props
  if (part.kind === 'statement' && text !== part.text) void store({ ...part, text }, `${part.designator} set to ${text.slice(0, 40)}`)
}
</script>

<template>
  <section class="part-card" :aria-label="`Part ${part.designator}`">
    <header>
      <h2><input class="name" :value="part.designator" maxlength="8" spellcheck="false" :aria-label="`Name of ${part.designator}`" title="Call it otherwise: what speaks of it goes along" @change="call"> <small class="soft">{{ title }}</small></h2>
      <v-btn v-if="'value' in part && part.value" size="x-small" variant="text" title="Turn its value while the cards follow" @click="emit('trim', part.designator)">Trim it</v-btn>
    </header>
    <p class="nets mono"><span v-for="{ pin, net } in nets" :key="pin">{{ pin }} <b>{{ net }}</b> <small v-if="rest?.currents[`${part.designator}.${pin}`] != null" class="soft">{{ engineering(rest.currents[`${part.designator}.${pin}`], 'A', 3) }}</small></span></p>
    <p v-if="watts != null" class="soft">At rest it takes {{ engineering(watts, 'W', 3) }}.</p>
    <p v-for="{ words, why, grave } in standings" :key="words" :class="{ wrong: grave }"><b>{{ words }}</b>: {{ why }}</p>
    <p v-if="'value' in part" class="soft">{{ part.value || 'no value' }}{{ spread ? `, ${spread.contributions.map(({ amount }) => amountText(amount)).join(' and ')}` : ', no spread yet' }}. Press Enter on the sheet to change it.</p>
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
    <div v-if="warmth.length" class="ratings" role="group" :aria-label="`How ${part.designator} follows temperature`">
      <span class="soft">warm</span>
      <label v-for="[name, unit, meaning, like] in warmth" :key="name" :title="meaning"><span class="soft">{{ name }}</span><input class="mono" maxlength="32" :placeholder="like === '100ppm' ? 'none' : like" :value="(part as Warm)[name] ?? ''" :aria-label="`${name} of ${part.designator}`" @change="warm(name, ($event.target as HTMLInputElement).value)"> {{ unit }}</label>
    </div>
    <div class="ratings" role="group" :aria-label="`What ${part.designator} may bear`">
      <span class="soft">rated</span>
      <label v-for="[what, unit, meaning] in RATINGS" :key="what" :title="meaning"><input class="mono" maxlength="32" placeholder="–" :value="part.rating?.[what] ?? ''" :aria-label="`Rated ${what} of ${part.designator}`" @change="rate(what, ($event.target as HTMLInputElement).value)"> {{ unit }}</label>
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

header {
  align-items: baseline;
  display: flex;
  justify-content: space-between;
}

small {
  font-weight: 400;
}

.ratings {
  align-items: baseline;
  display: flex;
  flex-wrap: wrap;
  font-size: var(--size-small);
  gap: 2px 10px;
  margin-top: 4px;
}

.ratings label {
  white-space: nowrap;
}

.ratings input {
  width: 58px;
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

.name {
  background: none;
  border-color: transparent;
  font-size: inherit;
  font-weight: inherit;
  margin: 0 4px 0 -7px;
  width: 4.2em;
}

.name:hover,
.name:focus {
  background: var(--paper);
  border-color: var(--rule);
}

.wrong {
  color: var(--breaks);
}
</style>
