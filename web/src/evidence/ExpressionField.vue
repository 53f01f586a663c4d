<script setup lang="ts">
import type { Check, Circuit, CurveView } from '@/api/client'
import { fetchTrial, useVocabulary } from '@/api/trials'
import { computed, useTemplateRef } from 'vue'
import { offers } from './completion'
import MathsInput from './MathsInput.vue'
import { useLatest } from './useLatest'

/** An expression over traces. */
const props = defineProps<{ boardId: string; circuit: Circuit; check: Check; expression: string; label: string; placeholder?: string }>()
const emit = defineEmits<{ set: [expression: string] }>()

const vocabulary = useVocabulary()
const input = useTemplateRef<InstanceType<typeof MathsInput>>('input')
const { said, ask } = useLatest<CurveView>(async (text) => {
  const view = await fetchTrial(props.boardId, props.check.id, { expressions: [text], points: 100 })
  return view.curves.find(({ expression }) => expression === text)
})
const fault = computed(() => (said.value?.problem ? { text: said.value.problem, column: said.value.column ?? 1 } : null))
defineExpose({ focus: () => input.value?.focus(), clear: () => input.value?.clear() })
</script>

<template>
  <MathsInput ref="input" :text="expression" :label="label" :placeholder="placeholder" :fault="fault" :offers="(text, caret) => offers(text, caret, circuit, check, vocabulary.data.value)" @typed="ask" @set="(text) => emit('set', text)" />
</template>
