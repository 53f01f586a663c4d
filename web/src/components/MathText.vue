<script setup lang="ts">
/** A formula as it is written on paper: MathML from the service, in which all that was typed is escaped. */
defineProps<{ math: string }>()
</script>

<template>
  <!-- eslint-disable-next-line vue/no-v-html -->
  <span class="maths" v-html="math" />
</template>

<style scoped>
.maths {
  display: inline-block;
  max-width: 100%;
  overflow-x: auto;
  font-size: 1.0625em;
}
</style>
