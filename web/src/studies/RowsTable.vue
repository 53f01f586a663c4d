<script setup lang="ts">
import { fetchRow, rowsAsCsv, useRows, type RowOrder } from '@/api/studies'
import { engineering } from '@/format/engineering'
import { mdiChevronDown, mdiChevronUp } from '@mdi/js'
import { computed, ref, watch } from 'vue'

/** Every row of a study: sorted, only those that fail, handed out, and opened on the sheet. */
const props = defineProps<{ boardId: string; study: string; rows: number; check: string }>()
const emit = defineEmits<{ open: [row: number, values: Record<string, number>] }>()

const PAGE = 25
const order = ref<RowOrder>({ sort: 'row', descending: false, failing: false })
const page = ref(0)
watch(order, () => (page.value = 0))
const { data: found, isFetching } = useRows(() => props.boardId, () => props.study, () => ({ ...order.value, offset: PAGE * page.value, limit: PAGE }), () => props.rows)
const pages = computed(() => Math.max(1, Math.ceil((found.value?.total ?? 0) / PAGE)))
const columns = computed(() => [
  { key: 'row', title: 'row' },
  ...(found.value?.results ?? []).map(({ check, id, title }) => ({ key: `${check} ${id}`, title })),
  ...(found.value?.inputs ?? []).map(({ name }) => ({ key: name, title: name })),
])
const sortBy = (key: string) => (order.value = { ...order.value, sort: key, descending: order.value.sort === key && !order.value.descending })
const open = (row: number, inputs: readonly number[]) =>
  emit('open', row, Object.fromEntries((found.value?.inputs ?? []).flatMap(({ name, checks }, k) => (checks.includes(props.check) ? [[name, inputs[k] ?? 0]] : []))))
/** One that need not be in sight. */
async function openRow(row: number) {
  const one = await fetchRow(props.boardId, props.study, row)
  if (one) open(row, one.inputs)
}
defineExpose({ openRow })
</script>

<template>
  <section v-if="found" aria-label="Every row" :aria-busy="isFetching">
    <header>
      <h2>Rows</h2>
      <label><input type="checkbox" :checked="order.failing" @change="order = { ...order, failing: !order.failing }"> only those that fail a limit</label>
      <span class="gap" />
      <a :href="rowsAsCsv(boardId, study)" download>Save as CSV</a>
    </header>
    <div class="wide" tabindex="0" role="region" aria-label="Table of rows">
      <table class="ruled">
        <thead>
          <tr>
            <th v-for="{ key, title } in columns" :key="key" scope="col" class="number" :aria-sort="order.sort === key ? (order.descending ? 'descending' : 'ascending') : undefined">
              <button type="button" :title="`Sort by ${title}`" @click="sortBy(key)">{{ title }}<v-icon v-if="order.sort === key" size="x-small" :icon="order.descending ? mdiChevronDown : mdiChevronUp" /></button>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="{ row, inputs, values, causes, breaks } in found.rows" :key="row" :data-row="row + 1">
            <th scope="row" class="number"><button type="button" class="open" :title="`Open row ${row + 1} on the sheet, with its values`" @click="open(row, inputs)">{{ row + 1 }}</button></th>
            <td v-for="(value, k) in values" :key="k" class="number" :class="{ fails: breaks[k] }">{{ value == null ? causes[k] : engineering(value, found.results[k]?.unit, 5) }}</td>
            <td v-for="(value, k) in inputs" :key="`i${k}`" class="number soft">{{ engineering(value, found.inputs[k]?.unit, 5) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="!found.total" class="soft">{{ order.failing ? 'No row fails a limit.' : 'No row is computed yet.' }}</p>
    <nav v-else-if="pages > 1" aria-label="Pages of rows">
      <v-btn size="x-small" variant="text" :disabled="!page" @click="page -= 1">Earlier</v-btn>
      <span class="soft mono">{{ PAGE * page + 1 }} to {{ Math.min(PAGE * (page + 1), found.total) }} of {{ found.total }}</span>
      <v-btn size="x-small" variant="text" :disabled="page + 1 >= pages" @click="page += 1">Later</v-btn>
    </nav>
  </section>
</template>

<style scoped>
header {
  align-items: baseline;
  display: flex;
  gap: 14px;
  margin: 18px 0 4px;
}

h2 {
  font-size: var(--size-body);
}

header label,
header a {
  font-size: 0.8125rem;
}

input[type='checkbox'] {
  accent-color: var(--ink);
}

.gap {
  flex: 1;
}

.wide {
  overflow-x: auto;
}

table {
  font-size: 0.8125rem;
  min-width: 100%;
}

th button {
  white-space: nowrap;
}

td,
th {
  padding: 2px 10px;
}

.open {
  color: var(--ink);
  text-decoration: underline;
}

.fails {
  color: var(--breaks);
}

nav {
  align-items: center;
  display: flex;
  gap: 8px;
  margin-top: 4px;
}
</style>
