<script setup lang="ts">
import { fetchFreshStudy } from '@/api/sheet'
import { useVocabulary } from '@/api/trials'
import StudyPanel from '@/studies/StudyPanel.vue'
import { mdiPlus } from '@mdi/js'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { BoardPage } from './page'

/** The studies of a board: made, chosen, run and read. */
const props = defineProps<BoardPage>()

const route = useRoute()
const router = useRouter()
const vocabulary = useVocabulary()
const kinds = computed(() => vocabulary.data.value?.studies ?? [])
const checks = computed(() => props.board.circuits.flatMap((circuit) => circuit.checks.map((check) => ({ circuit, check }))))
const study = computed(() => props.board.studies.find(({ id }) => id === route.query.study) ?? props.board.studies[0])
const choose = (id: string) => router.replace({ query: { study: id } })

const trouble = ref('')
async function add(kind: string, check: string) {
  trouble.value = ''
  try {
    const made = await fetchFreshStudy(props.board, kind, check)
    await props.edit((board) => ({ ...board, studies: [...board.studies, made] }), `${made.title} added`)
    await choose(made.id)
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error)
  }
}
</script>

<template>
  <header>
    <h1>Studies</h1>
    <nav v-if="board.studies.length" aria-label="Studies">
      <button v-for="each in board.studies" :key="each.id" type="button" :aria-current="each.id === study?.id" @click="choose(each.id)">{{ each.title }}</button>
    </nav>
    <v-menu v-if="checks.length">
      <template #activator="{ props: menu }"><v-btn size="small" variant="text" :prepend-icon="mdiPlus" v-bind="menu">Study</v-btn></template>
      <v-list density="compact" max-height="420">
        <template v-for="{ kind, title, question } in kinds" :key="kind">
          <v-list-subheader>{{ question }}</v-list-subheader>
          <v-list-item v-for="{ circuit, check } in checks" :key="check.id" :title="`${title} of ${check.title}`" :subtitle="board.circuits.length > 1 ? circuit.title : undefined" @click="add(kind, check.id)" />
        </template>
      </v-list>
    </v-menu>
  </header>
  <v-alert v-if="trouble" type="error" variant="tonal" density="compact" :text="trouble" closable @click:close="trouble = ''" />
  <StudyPanel v-if="study" :key="study.id" :board-id="boardId" :board="board" :study="study" :saving="saving" :edit="edit" @chosen="choose" />
  <div v-else class="empty">
    <p v-if="checks.length">A study repeats a check over many units, or along a value. Choose <b>Study</b> above to make one.</p>
    <p v-else>There is no check to study yet. Draw a circuit and attach a source or a supply on the <router-link :to="{ name: 'sheet' }">sheet</router-link> first.</p>
  </div>
</template>

<style scoped>
header {
  align-items: baseline;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  margin-bottom: 12px;
}

nav {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
}

nav button {
  border-bottom: 2px solid transparent;
  color: var(--ink-soft);
  padding: 3px 8px;
}

nav button[aria-current='true'] {
  border-bottom-color: var(--accent);
  color: var(--ink-text);
  font-weight: 500;
}

.empty {
  max-width: 60ch;
}
</style>
