<script setup lang="ts">
import { nextTick, onMounted, ref, useTemplateRef } from 'vue'

/** A value that is being changed in place. Refusals stand under it, and nothing typed is lost. */
const props = defineProps<{
  label: string
  text: string
  /** How many signs may be typed. */
  limit: number
  left: number
  top: number
  /** Stores a new value; rejects with the reason. */
  change: (value: string) => Promise<void>
}>()
const emit = defineEmits<{ close: [] }>()

const draft = ref(props.text)
const refusal = ref('')
const saving = ref(false)
const field = useTemplateRef<HTMLInputElement>('field')
onMounted(() => field.value?.select())

async function save() {
  if (saving.value) return
  if (draft.value.trim() === props.text) return emit('close')
  saving.value = true
  try {
    await props.change(draft.value)
    emit('close')
  } catch (error) {
    refusal.value = error instanceof Error ? error.message : String(error)
    saving.value = false
    await nextTick()
    field.value?.focus()
  }
}
</script>

<template>
  <form class="editor" :style="{ left: `${left}px`, top: `${top}px` }" @submit.prevent="save" @pointerdown.stop>
    <input
      ref="field" v-model="draft" class="mono" :maxlength="limit" :aria-label="label" :aria-invalid="!!refusal" :disabled="saving"
      @keydown.stop @keydown.esc.prevent.stop="emit('close')" @blur="refusal || save()"
    >
    <p v-if="refusal" role="alert">{{ refusal }}</p>
    <p v-else class="hint">Enter keeps it, Esc leaves it</p>
  </form>
</template>

<style scoped>
.editor {
  background: var(--paper-raised);
  border: 1px solid var(--accent);
  border-radius: var(--corner);
  box-shadow: 0 4px 14px rgb(0 0 0 / 18%);
  padding: 2px 8px 6px;
  position: absolute;
  width: 200px;
  z-index: 3;
}

input {
  background: transparent;
  border: 0;
  border-bottom: 1px solid var(--rule);
  color: var(--ink-text);
  outline: none;
  width: 100%;
}

p {
  color: var(--breaks);
  font-size: var(--size-small);
  line-height: 1.35;
  margin: 4px 0 0;
}

.hint {
  color: var(--ink-soft);
}
</style>
