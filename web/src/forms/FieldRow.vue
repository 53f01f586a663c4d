<script setup lang="ts">
import { ref, watch } from 'vue'

/** One labelled field of a form. What is typed is handed over on Enter and when the field is left. */
const props = defineProps<{ label: string; value: string | null | undefined; unit?: string; placeholder?: string; hint?: string; limit?: number; wrong?: boolean }>()
const emit = defineEmits<{ set: [value: string] }>()

const draft = ref(props.value ?? '')
watch(() => props.value, (value) => (draft.value = value ?? ''))

function hand() {
  if (draft.value.trim() !== (props.value ?? '')) emit('set', draft.value.trim())
}
</script>

<template>
  <label :title="hint">
    <span>{{ label }}</span>
    <input v-model="draft" class="mono" :aria-label="label" :aria-invalid="wrong || undefined" :maxlength="limit ?? 32" :placeholder="placeholder" spellcheck="false" autocomplete="off" @change="hand" @keydown.esc.stop="draft = value ?? ''">
    <span class="soft">{{ unit }}</span>
  </label>
</template>

<style scoped src="./row.css"></style>
