<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import { commandsNow, matching, type Command } from './commands'

/** Everything that can be done here, found by typing a part of its name. */
const MOST = 12
const open = ref(false)
const text = ref('')
const active = ref(0)
const field = useTemplateRef<HTMLInputElement>('field')
const all = ref<Command[]>([])
const found = computed(() => matching(all.value, text.value).slice(0, MOST))
watch(text, () => (active.value = 0))

let before: HTMLElement | null = null
async function show() {
  before = document.activeElement as HTMLElement | null
  all.value = commandsNow()
  text.value = ''
  active.value = 0
  open.value = true
  await nextTick()
  field.value?.focus()
}
function hide() {
  open.value = false
  before?.focus({ preventScroll: true })
}
function run(command: Command | undefined) {
  if (!command) return
  hide()
  command.run()
}
function move(by: number) {
  if (found.value.length) active.value = (active.value + by + found.value.length) % found.value.length
}
function onKey(event: KeyboardEvent) {
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
    event.preventDefault()
    if (open.value) hide()
    else void show()
  }
}
onMounted(() => window.addEventListener('keydown', onKey))
onBeforeUnmount(() => window.removeEventListener('keydown', onKey))
defineExpose({ show })
</script>

<template>
  <div v-if="open" class="veil" @pointerdown.self="hide">
    <section role="dialog" aria-label="What can be done" aria-modal="true">
      <input
        ref="field" v-model="text" maxlength="80" placeholder="What do you want to do?" aria-label="Find what can be done" role="combobox" aria-expanded="true" aria-controls="palette-list"
        :aria-activedescendant="found.length ? `palette-${active}` : undefined" spellcheck="false" autocomplete="off"
        @keydown.esc.prevent.stop="hide" @keydown.down.prevent="move(1)" @keydown.up.prevent="move(-1)" @keydown.enter.prevent="run(found[active])" @keydown.tab.prevent="move($event.shiftKey ? -1 : 1)"
      >
      <ul id="palette-list" role="listbox" aria-label="What can be done">
        <li v-for="(command, k) in found" :id="`palette-${k}`" :key="command.group + command.title" role="option" :aria-selected="k === active" @pointermove="active = k" @click="run(command)">
          <span class="soft">{{ command.group }}</span><span>{{ command.title }}</span><kbd v-if="command.keys" class="soft">{{ command.keys }}</kbd>
        </li>
        <li v-if="!found.length" class="soft none">Nothing here is called that.</li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.veil {
  background: color-mix(in srgb, var(--ink-text) 18%, transparent);
  inset: 0;
  position: fixed;
  z-index: 3000;
}

section {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: 6px;
  box-shadow: 0 10px 40px color-mix(in srgb, var(--ink-text) 30%, transparent);
  margin: 12vh auto 0;
  overflow: hidden;
  width: min(560px, 92vw);
}

input {
  background: transparent;
  border: 0;
  border-bottom: 1px solid var(--accent);
  color: inherit;
  font-size: 1rem;
  outline: none;
  padding: 12px 14px;
  width: 100%;
}

ul {
  list-style: none;
  margin: 0;
  padding: 4px;
}

li {
  cursor: pointer;
  display: grid;
  gap: 10px;
  grid-template-columns: 84px minmax(0, 1fr) auto;
  padding: 5px 10px;
}

li.none {
  display: block;
}

li[aria-selected='true'] {
  background: color-mix(in srgb, var(--accent) 14%, transparent);
}

kbd {
  font-family: var(--mono);
  font-size: var(--size-small);
}
</style>
