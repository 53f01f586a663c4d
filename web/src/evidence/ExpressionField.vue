<script setup lang="ts">
import type { Check, Circuit, CurveView } from '@/api/client'
import { fetchTrial, useVocabulary } from '@/api/trials'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { offers } from './completion'
import MathsInput from './MathsInput.vue'
import { useLatest } from './useLatest'

/** An expression over traces. */
const props = defineProps<{ boardId: string; circuit: Circuit; check: Check; expression: string; label: string; placeholder?: string }>()
const emit = defineEmits<{ set: [expression: string] }>()

const vocabulary = useVocabulary()
const input = useTemplateRef<InstanceType<typeof MathsInput>>('input')
const { said, ask } = useLatest<{ curve: CurveView | undefined; traces: readonly string[] }>(async (text) => {
  const { curves, traces } = await fetchTrial(props.boardId, props.check.id, { expressions: [text], points: 100 })
  return { curve: curves.find(({ expression }) => expression === text), traces: traces ?? [] }
})
const fault = computed(() => (said.value?.curve?.problem ? { text: said.value.curve.problem, column: said.value.curve.column ?? 1 } : null))
/** What the check brings by a name of its own, as far as anything was asked. */
const traces = ref<readonly string[]>([])
watch(said, (view) => (traces.value = view?.traces ?? traces.value))
defineExpose({ focus: () => input.value?.focus(), clear: () => input.value?.clear() })
</script>

<template>
  <MathsInput ref="input" :text="expression" :label="label" :placeholder="placeholder" :fault="fault" :offers="(text, caret) => offers(text, caret, circuit, check, vocabulary.data.value, traces)" @typed="ask" @set="(text) => emit('set', text)" />
</template>
