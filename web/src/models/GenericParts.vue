<script setup lang="ts">
import { useParts, usePreferred } from '@/api/models'
import { tick } from '@/format/engineering'
import { computed, ref } from 'vue'
import SymbolDrawing from './SymbolDrawing.vue'

/** What can be placed without a maker's model: generic parts with their defaults, grades of passives, preferred values. */
const emit = defineEmits<{ leave: [] }>()

const { data, error } = useParts()
const chosen = ref('resistor')
const words = ref('')
const wanted = ref('4k9')
const series = ref('E96')
const preferred = usePreferred(wanted, series)
const found = computed(() =>
  (data.value?.generic ?? []).filter((part) => `${part.title} ${part.meaning}`.toLowerCase().includes((words.value ?? '').trim().toLowerCase())),
)
const part = computed(() => data.value?.generic.find((other) => other.key === chosen.value))
const explained = computed(() => part.value?.settings.some((setting) => setting.meaning) ?? false)
const shown = (text: string) => (Number.isFinite(Number(text)) ? tick(Number(text)) : text)
const change = (grade: { tempco: number; drift: number }) =>
  grade.drift ? `±${grade.drift} % over temperature` : `${grade.tempco < 0 ? '−' : '±'}${Math.abs(grade.tempco)} ppm/°C`
</script>

<template>
  <section aria-label="Generic parts">
    <div class="actions">
      <h2>Generic parts</h2>
      <v-spacer />
      <v-btn variant="text" @click="emit('leave')">Back to the shelf</v-btn>
    </div>
    <v-alert v-if="error" type="error" variant="tonal" :text="error.message" />
    <div v-if="data" class="parts">
      <div>
        <v-text-field v-model="words" label="Search generic parts" hide-details clearable />
        <ul aria-label="Generic parts">
          <li v-for="other in found" :key="other.key">
            <button type="button" :class="{ chosen: other.key === chosen }" @click="chosen = other.key">{{ other.title }}</button>
          </li>
        </ul>
      </div>
      <div v-if="part" class="part">
        <h2>{{ part.title }}</h2>
        <p v-if="part.meaning" class="soft">{{ part.meaning }}</p>
        <div class="columns">
          <SymbolDrawing fixed :symbol="part.symbol" :nodes="part.symbol.pins.map((pin) => pin.role)" :roles="part.symbol.pins.map((pin) => pin.role)" />
          <div class="scroll">
            <table class="ruled" :aria-label="`Parameters of ${part.title}`">
              <thead><tr><th>Parameter</th><th class="number">Default</th><template v-if="explained"><th>Unit</th><th>Meaning</th></template></tr></thead>
              <tbody>
                <tr v-for="setting in part.settings" :key="setting.name">
                  <td class="mono">{{ setting.name }}</td><td class="number">{{ shown(setting.default) }}</td>
                  <template v-if="explained"><td class="mono">{{ setting.unit }}</td><td>{{ setting.meaning }}</td></template>
                </tr>
                <tr v-if="!part.settings.length"><td colspan="4" class="soft">It has none.</td></tr>
              </tbody>
            </table>
          </div>
        </div>
      </div>
    </div>
    <template v-if="data">
      <h2 class="next">Grades of passives</h2>
      <p class="soft">Tolerance letters by IEC 60062, series by IEC 60063.</p>
      <div class="grades">
        <table class="ruled" aria-label="Grades of passives">
          <thead><tr><th>Part</th><th>Grade</th><th class="number">Tolerance</th><th>Letter</th><th>Temperature</th><th>Series</th></tr></thead>
          <tbody>
            <tr v-for="grade in data.grades" :key="grade.key">
              <td>{{ grade.kind }}</td><td>{{ grade.title }}</td><td class="number">±{{ grade.tolerance }} %</td>
              <td class="mono">{{ grade.letter }}</td><td class="mono">{{ change(grade) }}</td><td class="mono">{{ grade.series }}</td>
            </tr>
          </tbody>
        </table>
        <form class="preferred" aria-label="Preferred value" @submit.prevent>
          <b>Nearest preferred value</b>
          <v-text-field v-model="wanted" class="mono" label="Wanted" hide-details />
          <v-select v-model="series" class="mono" :items="data.series" label="Series" hide-details />
          <p v-if="preferred.data.value" role="status" class="mono">
            {{ tick(preferred.data.value.value) }}, {{ preferred.data.value.deviation >= 0 ? '+' : '−' }}{{ Math.abs(preferred.data.value.deviation).toFixed(2) }} %
          </p>
          <p v-if="preferred.error.value" role="alert" class="wrong">{{ preferred.error.value.message }}</p>
        </form>
      </div>
    </template>
  </section>
</template>

<style scoped>
.parts {
  display: grid;
  gap: 20px;
  grid-template-columns: 210px minmax(0, 1fr);
}

ul {
  list-style: none;
  margin: 6px 0 0;
  max-height: 330px;
  overflow: auto;
  padding: 0;
}

li button {
  border-left: 3px solid transparent;
  padding: 4px 8px;
  text-align: left;
  width: 100%;
}

li button.chosen {
  background: var(--paper-raised);
  border-left-color: var(--ink);
}

.part p {
  margin: 2px 0 8px;
}

.columns {
  align-items: start;
  display: grid;
  gap: 16px;
  grid-template-columns: minmax(0, 240px) minmax(0, 1fr);
}

.columns :deep(.symbol) {
  width: 100%;
}

.scroll {
  max-height: 320px;
  overflow: auto;
}

table.ruled td {
  font-size: 0.8125rem;
  padding-bottom: 3px;
  padding-top: 3px;
}

.next {
  margin-top: 22px;
}

.grades {
  align-items: start;
  display: grid;
  gap: 24px;
  grid-template-columns: minmax(0, 1fr) 220px;
}

.preferred {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  display: grid;
  gap: 10px;
  padding: 12px;
}

.preferred p {
  margin: 0;
}

.wrong {
  color: var(--breaks);
}
</style>
