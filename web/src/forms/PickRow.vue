<script setup lang="ts">
import { computed } from 'vue'

/** One labelled choice of a form; options of a group stand together under its name. */
const props = defineProps<{ label: string; value: string | null | undefined; options: readonly { value: string; title: string; group?: string }[]; hint?: string }>()
const emit = defineEmits<{ set: [value: string] }>()

const groups = computed(() => [...new Set(props.options.map(({ group }) => group ?? ''))].map((name) => ({ name, options: props.options.filter(({ group }) => (group ?? '') === name) })))
</script>

<template>
  <label :title="hint">
    <span>{{ label }}</span>
    <select :value="value ?? ''" :aria-label="label" @change="emit('set', ($event.target as HTMLSelectElement).value)">
      <template v-for="{ name, options: own } in groups" :key="name">
        <optgroup v-if="name" :label="name"><option v-for="option in own" :key="option.value" :value="option.value">{{ option.title }}</option></optgroup>
        <template v-else><option v-for="option in own" :key="option.value" :value="option.value">{{ option.title }}</option></template>
      </template>
    </select>
  </label>
</template>

<style scoped src="./row.css"></style>
