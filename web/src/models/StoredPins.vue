<script setup lang="ts">
import type { ModelDetail } from '@/api/client'
import { useChangeModel, useKinds, usePins } from '@/api/models'
import { computed, ref } from 'vue'
import PinAssignment from './PinAssignment.vue'
import { refusal } from './roles'

/** A stored model's kind and pins, to be corrected, with what the file and the bench say of them. */
const props = defineProps<{ model: ModelDetail }>()

const { data: kinds } = useKinds()
const { data: pins } = usePins(() => props.model.entry.id)
const change = useChangeModel(() => props.model.entry.id)
const roles = ref([...props.model.roles])
const kindKey = ref(props.model.entry.kind)
const kind = computed(() => kinds.value?.find((other) => other.key === kindKey.value))
const changed = computed(() => kindKey.value !== props.model.entry.kind || roles.value.join() !== props.model.roles.join())

function back() {
  roles.value = [...props.model.roles]
  kindKey.value = props.model.entry.kind
}
</script>

<template>
  <template v-if="kind">
    <v-select v-model="kindKey" class="kind" :items="kinds" item-title="title" item-value="key" label="Kind" hide-details />
    <PinAssignment
      :files="model.files" :file="model.entry.file" :name="model.entry.name" :nodes="model.nodes" :roles="roles" :kind="kind"
      :pins="pins" @change="roles = $event"
    />
    <div v-if="changed" class="actions">
      <v-btn
        variant="flat" :disabled="refusal(roles) !== null" :loading="change.isPending.value"
        @click="change.mutate({ roles, kind: kindKey === model.entry.kind ? null : kindKey })"
      >Keep these pins</v-btn>
      <v-btn variant="text" @click="back">As they were</v-btn>
      <span class="soft">Evidence and qualification that rest on this model will be out of date.</span>
    </div>
    <v-alert v-if="change.error.value" type="error" variant="tonal" :text="change.error.value.message" />
  </template>
</template>

<style scoped>
.kind {
  margin-bottom: 12px;
  max-width: 240px;
}
</style>
