<script setup lang="ts">
import { useStress } from '@/api/queries'
import StateMark from '@/components/StateMark.vue'
import { engineering, percent } from '@/format/engineering'
import type { Change } from '@/stores/useEditing'
import { computed, ref } from 'vue'

/** What rated parts bear in all checks, worst first; what has no rating is named, and the rules can be changed. */
const props = defineProps<{ boardId: string; edit: (change: Change, what: string) => Promise<void> }>()

const { data, error, isFetching } = useStress(() => props.boardId)
const WHAT = { power: 'watts', voltage: 'volts', current: 'amperes' } as Record<string, string>
const KINDS = ['power', 'voltage', 'current'] as const
const unrated = computed(() => Object.entries(data.value?.unrated ?? {}))
const silent = computed(() => Object.entries(data.value?.silent ?? {}))

const trouble = ref('')
async function rule(kind: string, what: (typeof KINDS)[number], text: string) {
  const given = text.trim() ? Number(text) : null
  trouble.value = given !== null && !(given > 0 && given <= 100) ? 'Write per cent of the rating, above 0 and up to 100.' : ''
  if (trouble.value) return
  const old = data.value?.rules[kind]
  const next = { power: old?.power ?? null, voltage: old?.voltage ?? null, current: old?.current ?? null, [what]: given }
  await props.edit((board) => ({ ...board, derating: { ...board.derating, [kind]: next } }), `${kind} used up to ${text} % of its ${what}`).catch((problem: unknown) => (trouble.value = problem instanceof Error ? problem.message : String(problem)))
}
</script>

<template>
  <section aria-label="Stress" :aria-busy="isFetching">
    <h2>Stress</h2>
    <p class="soft lead">What rated parts bear in all checks as drawn, beside what their ratings allow. Ratings are given on a part’s card on the sheet.</p>
    <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
    <p v-else-if="!data" class="soft" role="status">The checks are run with a meter in every pin …</p>
    <template v-else>
      <table v-if="data.uses.length" class="ruled" :class="{ stale: isFetching }">
        <thead><tr><th>Part</th><th>Circuit</th><th>Rating</th><th class="number">Rated</th><th class="number">Used up to</th><th class="number">Borne</th><th class="number">Use</th><th /><th>In</th></tr></thead>
        <tbody>
          <tr v-for="use in data.uses" :key="`${use.part} ${use.what}`" :data-use="`${use.part} ${use.what}`">
            <th scope="row" class="mono">{{ use.part }}</th><td>{{ use.circuit }}</td><td>{{ WHAT[use.what] }}</td>
            <td class="number">{{ engineering(use.rated, use.unit, 3) }}</td><td class="number">{{ use.allowed }} %</td>
            <td class="number">{{ engineering(use.borne, use.unit, 3) }}</td><td class="number">{{ percent(use.part_used, 3) }}</td>
            <td><StateMark :state="use.state" /></td>
            <td>{{ use.check }}<template v-if="use.at != null">, at {{ engineering(use.at, use.axis_unit, 3) }}</template><template v-else-if="!use.axis">, at rest</template></td>
          </tr>
        </tbody>
      </table>
      <p v-else class="soft">No part has a rating yet: select one on the sheet, and say how many watts, volts or amperes it bears.</p>
      <p v-for="[circuit, parts] in unrated" :key="circuit" class="soft note">Without a rating in {{ circuit }}: {{ parts.slice(0, 20).join(', ') }}{{ parts.length > 20 ? ` and ${parts.length - 20} more` : '' }}.</p>
      <p v-for="[check, why] in silent" :key="check" class="soft note">{{ check }} says nothing: {{ why }}.</p>
      <details>
        <summary>How much of their ratings parts are used up to</summary>
        <table class="ruled rules">
          <thead><tr><th>Kind</th><th v-for="what in KINDS" :key="what" class="number">{{ WHAT[what] }}, %</th></tr></thead>
          <tbody>
            <tr v-for="(given, kind) in data.rules" :key="kind">
              <th scope="row">{{ kind }}</th>
              <td v-for="what in KINDS" :key="what" class="number"><input class="mono small-number" :value="given[what] ?? ''" placeholder="100" :aria-label="`${WHAT[what]} of a ${kind}, per cent`" @change="rule(String(kind), what, ($event.target as HTMLInputElement).value)"></td>
            </tr>
          </tbody>
        </table>
        <p class="soft">Usual ones: {{ data.source }}. Other kinds: 80 %.</p>
        <p v-if="trouble" class="refusal" role="alert">{{ trouble }}</p>
      </details>
    </template>
  </section>
</template>

<style scoped src="@/forms/small.css"></style>
<style scoped>
section {
  margin-top: 28px;
}

h2 {
  font-size: var(--size-lead);
}

table th {
  font-weight: 400;
  text-align: left;
}

table th.number {
  text-align: right;
}

td :deep(.state) {
  vertical-align: middle;
}

.note {
  margin: 2px 0;
}

summary {
  cursor: pointer;
  margin-top: 10px;
}

.rules {
  max-width: 460px;
}

.refusal {
  color: var(--breaks);
}
</style>
