<script setup lang="ts">
import { useModel, useModels } from '@/api/models'
import BoardModels from '@/models/BoardModels.vue'
import CompareModels from '@/models/CompareModels.vue'
import GenericParts from '@/models/GenericParts.vue'
import ModelIntake from '@/models/ModelIntake.vue'
import ModelSheet from '@/models/ModelSheet.vue'
import ShelfList from '@/models/ShelfList.vue'
import { mdiPlus } from '@mdi/js'
import { computed, ref } from 'vue'
import type { BoardPage } from './page'

defineProps<BoardPage>()

const { data: models, error } = useModels()
const chosen = ref<string>()
const doing = ref<'look' | 'take in' | 'compare' | 'generic'>('look')
const marked = ref<string[]>([])
const shown = computed(() => chosen.value ?? models.value?.find((entry) => entry.used_by.length)?.id ?? models.value?.[0]?.id)
const { data: model } = useModel(shown)
const compared = computed(() => models.value?.filter((entry) => marked.value.includes(entry.id)) ?? [])

function open(id: string | undefined) {
  chosen.value = id
  doing.value = 'look'
}
</script>

<template>
  <h1>Models</h1>
  <p class="soft lead">Makers’ models, kept whole, with where they came from. Check the pins and the bench before you trust one.</p>
  <v-alert v-if="error" type="error" variant="tonal" :text="error.message" />
  <div class="columns">
    <div class="side">
      <v-btn block variant="flat" :prepend-icon="mdiPlus" @click="doing = 'take in'">Take in a model</v-btn>
      <v-btn block :disabled="compared.length < 2" @click="doing = 'compare'">
        Compare{{ compared.length > 1 ? ` ${compared.length} models` : ' marked models' }}
      </v-btn>
      <v-btn block variant="text" @click="doing = 'generic'">Generic parts</v-btn>
      <BoardModels v-if="models" :models="models" :board="board" :edit="edit" @open="open" />
      <ShelfList v-if="models" :models="models" :shown="doing === 'look' ? shown : undefined" :marked="marked" @open="open" @mark="marked = $event" />
    </div>
    <ModelIntake v-if="doing === 'take in'" @stored="open" @leave="doing = 'look'" />
    <GenericParts v-else-if="doing === 'generic'" @leave="doing = 'look'" />
    <CompareModels v-else-if="doing === 'compare'" :models="compared" :shelf="models ?? []" @leave="doing = 'look'" />
    <ModelSheet
      v-else-if="model" :key="model.entry.id + model.roles.join() + model.entry.kind" :model="model" :shelf="models ?? []" :board="board" :edit="edit"
      @open="open" @removed="open(undefined)"
    />
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  gap: 24px;
  grid-template-columns: 250px minmax(0, 1fr);
}

.side {
  align-content: start;
  display: grid;
  gap: 8px;
}
</style>
