<script setup lang="ts">
import type { BenchCard } from '@/api/client'
import CardChart from '@/charts/CardChart.vue'

/** A card of the bench: curves, or a table. */
defineProps<{ card: BenchCard }>()
</script>

<template>
  <figure class="card">
    <figcaption>{{ card.title }}<small v-if="card.remark" class="soft">{{ card.remark }}</small></figcaption>
    <CardChart v-if="card.curves?.length" :card="card" class="chart" />
    <div v-else class="scroll">
      <table class="ruled">
        <thead><tr><th v-for="word in card.heading" :key="word">{{ word }}</th></tr></thead>
        <tbody>
          <tr v-for="(row, k) in card.table" :key="k"><td v-for="(cell, n) in row" :key="n" class="mono">{{ cell }}</td></tr>
          <tr v-if="!card.table?.length"><td :colspan="card.heading?.length" class="soft">none</td></tr>
        </tbody>
      </table>
    </div>
  </figure>
</template>

<style scoped>
.card {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  margin: 0;
  padding: 10px 12px;
}

figcaption {
  font-weight: 600;
  margin-bottom: 4px;
}

small {
  display: block;
  font-weight: 400;
}

.chart {
  height: 236px;
}

.scroll {
  max-height: 236px;
  overflow: auto;
}

table.ruled td {
  font-size: 12px;
  padding-bottom: 3px;
  padding-top: 3px;
}
</style>
