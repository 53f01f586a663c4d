<script setup lang="ts">
import type { PastedView } from '@/api/client'
import { usePaste } from '@/api/sheet'
import FindingList from '@/components/FindingList.vue'
import PlainDialog from '@/components/PlainDialog.vue'
import { computed, ref } from 'vue'

/** A netlist pasted or opened: it becomes a circuit of its own, drawn by itself. */
const props = defineProps<{ boardId: string; draw: (pasted: PastedView) => Promise<void> }>()
const emit = defineEmits<{ close: [] }>()

const title = ref('')
const text = ref('')
const trouble = ref('')
const drawing = ref(false)
const result = ref<PastedView>()
const paste = usePaste(() => props.boardId)
const renamed = computed(() => Object.entries(result.value?.names ?? {}).map(([old, now]) => `${old} is ${now} now`).join(', '))

async function open(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  text.value = await file.text()
  title.value = file.name.replace(/\.[^.]*$/, '').slice(0, 120) || title.value
}

async function take() {
  trouble.value = ''
  drawing.value = true
  try {
    result.value = await paste.mutateAsync({ title: title.value.trim() || null, text: text.value })
    await props.draw(result.value)
  } catch (error) {
    result.value = undefined
    trouble.value = error instanceof Error ? error.message : String(error)
  } finally {
    drawing.value = false
  }
}
</script>

<template>
  <PlainDialog title="Paste a netlist" :width="760" @close="emit('close')">
    <form class="paste" @submit.prevent="take">
      <h2>Paste a netlist</h2>
      <template v-if="!result">
        <p class="soft">Element statements, models and analyses as published for Berkeley SPICE. Sources become the fixture of a check; models go onto the shelf.</p>
        <v-text-field v-model="title" label="Name of the circuit" placeholder="Its own title" persistent-placeholder maxlength="120" hide-details class="title" />
        <v-textarea v-model="text" class="mono" label="Netlist" rows="14" hide-details spellcheck="false" autofocus />
        <p v-if="trouble" role="alert" class="wrong">{{ trouble }}</p>
        <div class="actions">
          <v-btn type="submit" variant="flat" :loading="drawing" :disabled="!text.trim()">Draw it</v-btn>
          <label class="file">Open a file<input type="file" accept=".cir,.net,.txt,.sp" @change="open"></label>
          <v-btn variant="text" @click="emit('close')">Cancel</v-btn>
        </div>
      </template>
      <template v-else>
        <p>{{ result.circuit.title }} is drawn: {{ result.circuit.parts.length }} parts.</p>
        <p v-if="renamed" class="soft">{{ renamed }}.</p>
        <FindingList v-if="result.findings.length" :findings="result.findings" />
        <div class="actions"><v-btn variant="flat" autofocus @click="emit('close')">Look at it</v-btn></div>
      </template>
    </form>
  </PlainDialog>
</template>

<style scoped>
.paste {
  background: var(--paper);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  max-height: 86vh;
  overflow: auto;
  padding: 16px;
}

.title {
  margin: 10px 0;
}

p {
  margin: 6px 0;
}

.wrong {
  color: var(--breaks);
}
</style>
