<script setup lang="ts">
import { useEnvelope } from '@/api/studies'
import EnvelopeChart from '@/charts/EnvelopeChart.vue'
import PickRow from '@/forms/PickRow.vue'
import { computed, ref, watch } from 'vue'

/** A curve of a check in all units of a study; it is computed when somebody looks. */
const props = defineProps<{ boardId: string; study: string; check: string; rows: number }>()

const of = ref('')
watch(() => props.check, () => (of.value = ''))
const { data: envelope, error, isFetching } = useEnvelope(() => props.boardId, () => props.study, () => props.check, of, () => props.rows)
const choices = computed(() => (envelope.value?.choices ?? []).map((value) => ({ value, title: value })))
</script>

<template>
  <section class="envelope" aria-label="Curves of all units">
    <PickRow v-if="choices.length > 1" label="Curve" :value="envelope?.of ?? ''" :options="choices" hint="Of those that the check shows on the sheet" @set="(value) => (of = value)" />
    <EnvelopeChart v-if="envelope" class="chart" :class="{ waiting: isFetching }" :envelope="envelope" />
    <p v-if="envelope" class="soft">The line is the circuit as drawn. From outside in: all of the first {{ envelope.rows }} units, 98 % of them, 80 % of them.<template v-if="envelope.left_out"> {{ envelope.left_out }} more are no evidence and left out.</template></p>
    <p v-else-if="isFetching" class="soft" role="status">The curves are computed.</p>
    <p v-else-if="error" class="wrong" role="alert">{{ error.message }}</p>
    <p v-else class="soft">This check shows no curve: it ends in numbers.</p>
  </section>
</template>

<style scoped>
.envelope {
  margin-top: 14px;
}

.chart {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  height: 340px;
  margin-top: 8px;
  padding: 8px;
}

.waiting {
  opacity: 0.55;
}

.wrong {
  color: var(--breaks);
}
</style>
