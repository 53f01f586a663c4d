<script setup lang="ts">
/** One labelled choice of a form. */
defineProps<{ label: string; value: string | null | undefined; options: readonly { value: string; title: string }[]; hint?: string }>()
const emit = defineEmits<{ set: [value: string] }>()
</script>

<template>
  <label :title="hint">
    <span>{{ label }}</span>
    <select :value="value ?? ''" :aria-label="label" @change="emit('set', ($event.target as HTMLSelectElement).value)">
      <option v-for="option in options" :key="option.value" :value="option.value">{{ option.title }}</option>
    </select>
  </label>
</template>

<style scoped src="./row.css"></style>
