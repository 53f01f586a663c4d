<script setup lang="ts">
import type { Spread } from '@/api/client'
import { amountText, contributionOf, withContribution, type Contribution } from '@/stores/spreads'
import { computed, reactive, ref, watch } from 'vue'

/** One quantity's spread: what each contributor adds, how it is distributed, and what it varies together with. */
const props = defineProps<{
  of: string
  kind: string
  value: string
  circuit: string
  spread: Spread | undefined
  contributors: readonly { key: string; title: string; meaning: string; shared: boolean }[]
  distributions: readonly { key: string; title: string; form?: { title: string; usual: number; least: number; most: number } | null }[]
  /** Stores the spread, null for none; answers why not. */
  keep: (of: string, change: Spread | null) => Promise<string>
}>()

// What stands in the fields, as text, so that a wrong entry can be refused in place.
const drafts = reactive<Record<string, string>>({})
const group = ref('')
/** What was refused, and in which field. */
const refused = ref({ at: '', why: '' })
watch(
  () => [props.of, props.spread, props.contributors] as const,
  () => {
    for (const { key } of props.contributors) drafts[key] = contributionOf(props.spread, key)?.amount ?? ''
    group.value = props.spread?.group ?? ''
  },
  { immediate: true },
)

async function store(contributor: string, distribution = contributionOf(props.spread, contributor)?.distribution ?? 'uniform', form?: number | null) {
  const amount = (drafts[contributor] ?? '').trim()
  const now = contributionOf(props.spread, contributor)
  const kept = form === undefined && now?.distribution === distribution ? now.form : form
  const change: Omit<Contribution, 'contributor'> | null = amount ? { amount, distribution, form: kept ?? null } : null
  refused.value = { at: contributor, why: '' }
  if (now?.amount === change?.amount && now?.distribution === change?.distribution && (now?.form ?? null) === (change?.form ?? null)) return
  refused.value.why = await props.keep(props.of, withContribution(props.of, props.spread, contributor, change))
}
const isPerCent = (text: string | undefined) => Boolean(text?.trim()) && !text?.includes('%') && amountText(text ?? '').endsWith('%')
/** The number that the form of the distribution is chosen by, where it has one. */
const form = computed(() => {
  const own = contributionOf(props.spread, 'purchase')
  return own && props.distributions.find(({ key }) => key === own.distribution)?.form
})
function reform(text: string) {
  const own = contributionOf(props.spread, 'purchase')
  if (own) void store('purchase', own.distribution, text.trim() && Number.isFinite(Number(text)) ? Number(text) : null)
}

/** Another group; without one there is nothing to match. */
async function join() {
  const name = group.value.trim() || null
  if (!props.spread || name === (props.spread.group ?? null)) return
  const own = name ? props.spread.contributions : props.spread.contributions.filter(({ contributor }) => props.contributors.find(({ key }) => key === contributor)?.shared)
  refused.value = { at: 'group', why: await props.keep(props.of, own.length ? { ...props.spread, contributions: own, group: name } : null) }
}
</script>

<template>
  <tr>
    <td><b>{{ of }}</b></td>
    <td class="soft">{{ kind }}</td>
    <td class="number">{{ value }}</td>
    <template v-for="{ key, title, meaning, shared } in contributors" :key="key">
      <td class="tolerance">
        <input
          v-model="drafts[key]" class="mono" :placeholder="key === 'purchase' ? 'exact' : '–'" maxlength="40" :title="`${meaning} 1 is ±1 %; also -20 +80, ±100ppm, ±0.5p`"
          :aria-label="key === 'purchase' ? `Tolerance of ${of}` : `${title}: tolerance of ${of}`" :aria-invalid="(refused.at === key && !!refused.why) || undefined" :disabled="!shared && !spread?.group" @change="store(key)"
        ><span class="per soft">{{ isPerCent(drafts[key]) ? '%' : '' }}</span>
        <p v-if="refused.why && refused.at === key" role="alert" class="refusal">{{ refused.why }}</p>
      </td>
      <td v-if="key === 'purchase'">
        <select
          :value="contributionOf(spread, key)?.distribution ?? 'uniform'" :disabled="!contributionOf(spread, key)" :aria-label="`Distribution of ${of}`"
          @change="store(key, ($event.target as HTMLSelectElement).value)"
        >
          <option v-for="each in distributions" :key="each.key" :value="each.key">{{ each.title }}</option>
        </select>
        <input v-if="form" class="form-of mono" :value="contributionOf(spread, 'purchase')?.form ?? ''" :placeholder="String(form.usual)" :title="`${form.title}: ${form.least} to ${form.most}`" :aria-label="`${form.title} of ${of}`" maxlength="8" @change="reform(($event.target as HTMLInputElement).value)">
      </td>
    </template>
    <td>
      <input v-model="group" class="group" maxlength="32" placeholder="–" list="groups" :disabled="!spread" :aria-label="`Group of ${of}`" title="Quantities of one group vary together, as the resistors of a network do" @change="join">
      <p v-if="refused.why && refused.at === 'group'" role="alert" class="refusal">{{ refused.why }}</p>
    </td>
    <td class="soft">{{ circuit }}</td>
  </tr>
</template>

<style scoped src="@/forms/row.css"></style>
<style scoped>
td {
  padding: 4px 6px;
  vertical-align: middle;
  white-space: nowrap;
}

input,
select {
  font-size: 0.8125rem;
  min-height: 30px;
  padding: 2px 8px;
}

.tolerance input {
  text-align: right;
  width: 72px;
}

.per {
  display: inline-block;
  padding-left: 2px;
  width: 14px;
}

.form-of {
  margin-left: 4px;
  width: 44px;
}

.group {
  width: 78px;
}

.number {
  text-align: right;
}

select {
  width: 122px;
}

input[aria-invalid='true'] {
  border-color: var(--breaks);
}

.refusal {
  color: var(--breaks);
  font-size: var(--size-small);
  margin: 2px 0 0;
  white-space: normal;
}
</style>
