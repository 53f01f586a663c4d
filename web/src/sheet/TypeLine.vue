<script setup lang="ts">
import type { Choice } from '@/api/client'
import { useTyped } from '@/api/sheet'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'

/** One line in which everything that can be placed is typed; what it can mean is listed as one types. */
const emit = defineEmits<{ choose: [choice: Choice]; leave: [] }>()

const text = ref('')
const active = ref(0)
const field = useTemplateRef<HTMLInputElement>('field')
const typed = useTyped(text)
const choices = computed(() => (text.value.trim() ? ((typed.data.value ?? []) as unknown as Choice[]) : []))
const trouble = computed(() => (text.value.trim() && typed.error.value ? typed.error.value.message : ''))
watch(choices, () => (active.value = 0))

async function open(start: string) {
  text.value = start
  await nextTick()
  field.value?.focus()
  field.value?.setSelectionRange(start.length, start.length)
}

function choose(choice: Choice | undefined) {
  if (!choice) return
  text.value = ''
  emit('choose', choice)
}

/** The answer to what is written now may still be on its way. */
async function enter() {
  if (!text.value.trim()) return emit('leave')
  const wanted = text.value
  await typed.refetch()
  if (text.value === wanted) choose(choices.value[active.value])
}

function move(by: number) {
  const { length } = choices.value
  if (length) active.value = (active.value + by + length) % length
}

function leave() {
  text.value = ''
  emit('leave')
}

defineExpose({ open })
</script>

<template>
  <form class="type-line" @submit.prevent="enter">
    <input
      ref="field" v-model="text" class="mono" maxlength="200" aria-label="Place by typing" role="combobox" aria-autocomplete="list"
      aria-controls="type-choices" :aria-expanded="choices.length > 0" :aria-activedescendant="choices.length ? `type-choice-${active}` : undefined"
      placeholder="Type: r 4k7 1%, c 1n in out, gnd, a model, a stage" autocomplete="off" spellcheck="false"
      @keydown.esc.prevent.stop="leave" @keydown.down.prevent="move(1)" @keydown.up.prevent="move(-1)"
    >
    <ul v-if="choices.length" id="type-choices" role="listbox" aria-label="What can be placed">
      <li
        v-for="(choice, k) in choices" :id="`type-choice-${k}`" :key="choice.title" role="option" :aria-selected="k === active"
        @pointerdown.prevent="choose(choice)"
      >{{ choice.title }}</li>
    </ul>
    <p v-else-if="trouble" role="alert">{{ trouble }}</p>
  </form>
</template>

<style scoped>
.type-line {
  position: relative;
}

input {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  color: var(--ink-text);
  font-size: var(--size-body);
  padding: 7px 10px;
  width: 100%;
}

input:focus {
  border-color: var(--accent);
  outline: none;
}

ul,
p {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  bottom: calc(100% + 4px);
  box-shadow: 0 4px 14px rgb(0 0 0 / 14%);
  left: 0;
  list-style: none;
  margin: 0;
  max-width: 560px;
  padding: 4px 0;
  position: absolute;
  z-index: 4;
}

p {
  color: var(--breaks);
  font-size: var(--size-small);
  padding: 6px 10px;
}

li {
  cursor: pointer;
  padding: 4px 12px;
}

li[aria-selected='true'] {
  background: color-mix(in srgb, var(--ink) 10%, transparent);
}
</style>
