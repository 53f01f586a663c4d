<script setup lang="ts">
import type { BenchCard as Card, ModelEntry, Qualification } from '@/api/client'
import { useComparison } from '@/api/models'
import { computed } from 'vue'
import BadgeMark from './BadgeMark.vue'
import BenchCard from './BenchCard.vue'
import { figureText } from './figures'
import { versionOf } from './shelf'

/** Several models side by side: figures in a table, and cards of the same kind with their curves overlaid. */
const props = defineProps<{ models: ModelEntry[]; shelf: ModelEntry[] }>()
const emit = defineEmits<{ leave: [] }>()

const { data, error } = useComparison(() => props.models.map((model) => model.id))

const figures = computed(() => {
  const seen = new Map<string, { title: string; unit: string }>()
  for (const view of data.value ?? []) for (const { figure, title, unit } of view.lines) seen.set(figure.key, { title, unit })
  return [...seen].map(([key, { title, unit }]) => ({ key, title, unit }))
})
const value = (view: Qualification, key: string) => view.lines.find((line) => line.figure.key === key)?.figure

/** How a column is headed: the name, and which version it is where there are several. */
const heads = computed(() =>
  (data.value ?? []).map((view) => [view.name.toUpperCase(), versionOf(props.shelf, view.model)].filter(Boolean).join(', ')),
)

/** Cards that at least two models have, with the first curve of each model (of a card with one axis: all of them). */
const overlaid = computed<Card[]>(() => {
  const views = data.value ?? []
  const keys = new Set(views.flatMap((view) => view.cards.filter((card) => card.curves?.length).map((card) => card.key)))
  return [...keys].flatMap((key) => {
    const cards = views.map((view) => view.cards.find((card) => card.key === key))
    const first = cards.find((card) => card)
    if (!first || cards.filter(Boolean).length < 2) return []
    const curves = cards.flatMap((card, k) =>
      (card?.curves ?? []).slice(0, 1).map((curve) => ({ ...curve, title: heads.value[k] ?? '', second: false })),
    )
    const what = first.curves?.[0]?.title
    return [{ ...first, second: null, curves, remark: (first.curves?.length ?? 0) > 1 && what ? what : '' }]
  })
})
</script>

<template>
  <section aria-label="Comparison">
    <div class="actions">
      <h2>Side by side</h2>
      <v-spacer />
      <v-btn variant="text" @click="emit('leave')">Back to the shelf</v-btn>
    </div>
    <v-alert v-if="error" type="error" variant="tonal" :text="error.message" />
    <table v-if="data" class="ruled">
      <thead>
        <tr>
          <th>Figure</th>
          <th v-for="(view, k) in data" :key="view.model" class="number mono">{{ heads[k] }}</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td>Badge</td>
          <td v-for="view in data" :key="view.model" class="right"><BadgeMark :badge="view.badge" :text="view.badge_text" /></td>
        </tr>
        <tr v-for="figure in figures" :key="figure.key">
          <td>{{ figure.title }}</td>
          <td v-for="view in data" :key="view.model" class="number">
            <template v-if="value(view, figure.key)?.value != null">{{ figureText(value(view, figure.key)?.value, figure.unit) }}</template>
            <span v-else class="soft words">{{ value(view, figure.key)?.standing ?? 'not measured' }}</span>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="data && !figures.length" class="soft">None of these was on the bench yet: open each one and put it there.</p>
    <div class="cards"><BenchCard v-for="card in overlaid" :key="card.key" :card="card" /></div>
  </section>
</template>

<style scoped>
.right {
  text-align: right;
}

.words {
  font-family: var(--text);
}

table.ruled td {
  padding-bottom: 4px;
  padding-top: 4px;
}

.cards {
  display: grid;
  gap: 14px;
  grid-template-columns: repeat(auto-fill, minmax(360px, 1fr));
  margin-top: 16px;
}
</style>
