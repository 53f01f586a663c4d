<script setup lang="ts">
import { isActive, useRuns } from '@/api/queries'
import { mdiPlay } from '@mdi/js'
import { computed } from 'vue'

/** What evidence is missing, as runs one click away, with one progress for all of them. */
const props = defineProps<{ boardId: string; studies: readonly { id: string; title: string }[] }>()

const { views, start } = useRuns(() => props.boardId, () => props.studies.map(({ id }) => id))
const active = computed(() => views.value.filter(({ data }) => isActive(data)))
const lacking = computed(() => props.studies.filter((_, k) => !isActive(views.value[k]?.data)))
const done = computed(() => active.value.reduce((sum, { data }) => sum + (data?.rows_done ?? 0), 0))
const rows = computed(() => active.value.reduce((sum, { data }) => sum + (data?.rows ?? 0), 0))
const failed = computed(() => views.value.flatMap(({ data }) => (data?.run?.state === 'failed' ? [`${data.study.title}: ${data.run.message}`] : data?.trouble ? [`${data.study.title}: ${data.trouble}`] : [])))
</script>

<template>
  <div v-if="studies.length" class="missing">
    <template v-if="lacking.length">
      <span>No current evidence from {{ lacking.map(({ title }) => title).join(', ') }}.</span>
      <v-btn size="small" variant="flat" :prepend-icon="mdiPlay" :loading="start.isPending.value" @click="start.mutate(lacking.map(({ id }) => id))">Run all that is unproven</v-btn>
    </template>
    <div v-if="active.length" class="progress" role="status">
      <v-progress-linear :model-value="rows ? (100 * done) / rows : 0" color="secondary" height="6" rounded aria-label="Rows done" />
      <span class="mono">{{ done }} of {{ rows }} rows of {{ active.length }} {{ active.length === 1 ? 'study' : 'studies' }}</span>
    </div>
    <p v-if="start.error.value" class="wrong" role="alert">{{ start.error.value.message }}</p>
    <p v-for="why in failed" :key="why" class="wrong" role="alert">{{ why }}</p>
  </div>
</template>

<style scoped>
.missing {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  margin-bottom: 12px;
}

.progress {
  align-items: center;
  display: flex;
  gap: 12px;
}

.progress .v-progress-linear {
  width: 240px;
}

.wrong {
  color: var(--breaks);
  flex-basis: 100%;
  margin: 0;
}
</style>
