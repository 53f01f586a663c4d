<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import type { Offer } from './completion'

/** A line of mathematics, with what can be written next, and what is wrong under the letter where it is wrong. */
const props = defineProps<{
  text: string
  label: string
  placeholder?: string
  /** What can be written at a place of the line. */
  offers: (text: string, caret: number) => Offer[]
  /** What is wrong with what is typed, and at which column. */
  fault: { text: string; column: number } | null
  /** Whether nothing is something, too. */
  empties?: boolean
}>()
const emit = defineEmits<{ typed: [text: string]; set: [text: string] }>()

const field = useTemplateRef<HTMLInputElement>('field')
const draft = ref(props.text)
const caret = ref(0)
const open = ref(false)
const active = ref(-1)
watch(() => props.text, (text) => {
  if (text === draft.value) return
  draft.value = text
  open.value = false
})
watch(draft, (text) => emit('typed', text), { immediate: true })

const list = computed(() => (open.value ? props.offers(draft.value, caret.value) : []))
watch(list, () => (active.value = -1))

function onInput(event: Event) {
  draft.value = (event.target as HTMLInputElement).value
  caret.value = (event.target as HTMLInputElement).selectionStart ?? draft.value.length
  open.value = true
}

async function take({ text, instead }: Offer) {
  const head = draft.value.slice(0, caret.value - instead) + text
  const tail = draft.value.slice(caret.value)
  draft.value = head + (text.endsWith(')') && tail.startsWith(')') ? tail.slice(1) : tail)
  caret.value = head.length
  open.value = !text.endsWith(')')
  await nextTick()
  field.value?.focus()
  field.value?.setSelectionRange(head.length, head.length)
}

function onKey(event: KeyboardEvent) {
  const { length } = list.value
  if (length && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
    active.value = (active.value + (event.key === 'ArrowDown' ? 1 : -1) + length) % length
    event.preventDefault()
  } else if ((event.key === 'Tab' || event.key === 'Enter') && length && (active.value >= 0 || event.key === 'Tab')) {
    const offer = list.value[Math.max(active.value, 0)]
    if (offer) void take(offer)
    event.preventDefault()
  } else if (event.key === 'Enter') hand()
  else if (event.key === 'Escape') {
    if (length) open.value = false
    else draft.value = props.text
    event.preventDefault()
  } else return
  event.stopPropagation()
}

/** Handed over once, though Enter and leaving the field both do it. */
let handed: string | null = null
function hand() {
  open.value = false
  const text = draft.value.trim()
  if ((!text && !props.empties) || text === props.text || text === handed) return
  handed = text
  emit('set', text)
}
watch(draft, (text) => text.trim() !== handed && (handed = null))
defineExpose({ focus: () => field.value?.focus(), clear: () => (draft.value = '') })
</script>

<template>
  <div class="expression">
    <input
      ref="field" class="mono" :value="draft" maxlength="300" :aria-label="label" :aria-invalid="Boolean(fault)" :placeholder="placeholder" spellcheck="false" autocomplete="off"
      role="combobox" aria-autocomplete="list" :aria-expanded="list.length > 0" @input="onInput" @keydown="onKey" @blur="open = false" @change="hand"
    >
    <ul v-if="list.length" role="listbox" aria-label="What can be written here">
      <li v-for="(offer, k) in list" :key="offer.text" role="option" :aria-selected="k === active" @pointerdown.prevent="take(offer)"><b class="mono">{{ offer.text }}</b> <small class="soft">{{ offer.meaning }}</small></li>
    </ul>
    <p v-if="fault" class="fault" role="alert"><span class="mono" aria-hidden="true">{{ ' '.repeat(Math.max(fault.column - 1, 0)) }}^</span><br>{{ fault.text }}</p>
  </div>
</template>

<style scoped>
.expression {
  min-width: 0;
  position: relative;
}

input {
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  color: inherit;
  font-size: 0.8125rem;
  padding: 3px 6px;
  width: 100%;
}

input[aria-invalid='true'] {
  border-color: var(--breaks);
}

ul {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  box-shadow: 0 4px 14px color-mix(in srgb, var(--ink-text) 18%, transparent);
  left: 0;
  list-style: none;
  margin: 2px 0 0;
  min-width: 100%;
  padding: 3px;
  position: absolute;
  top: 100%;
  width: max-content;
  z-index: 6;
}

li {
  cursor: pointer;
  font-size: 0.8125rem;
  padding: 2px 6px;
}

li[aria-selected='true'],
li:hover {
  background: color-mix(in srgb, var(--accent) 14%, transparent);
}

.fault {
  color: var(--breaks);
  font-size: var(--size-small);
  line-height: 1.25;
  margin: 0 0 2px;
}

.fault .mono {
  font-size: 0.8125rem;
  padding-left: 7px;
  white-space: pre;
}
</style>
