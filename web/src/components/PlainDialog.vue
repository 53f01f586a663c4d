<script setup lang="ts">
import { nextTick, onBeforeUnmount } from 'vue'

/** A dialog that is open as long as it is there. When it goes, what had the focus before has it again. */
defineProps<{ title: string; width: number }>()
const emit = defineEmits<{ close: [] }>()

const before = document.activeElement
onBeforeUnmount(async () => {
  await nextTick()
  if (before instanceof HTMLElement && before.isConnected && (document.activeElement === document.body || document.activeElement === null)) before.focus()
})
</script>

<template>
  <v-dialog model-value :width="width" :aria-label="title" @update:model-value="emit('close')"><slot /></v-dialog>
</template>
