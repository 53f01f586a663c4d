<script setup lang="ts">
import { useModelIntake } from '@/api/queries'
import FindingList from '@/components/FindingList.vue'
import { computed, reactive, ref } from 'vue'
import ModelText from './ModelText.vue'
import PinTable from './PinTable.vue'
import { proposed, refusal, type Roles } from './roles'

/** Taking in a model file: paste or choose it, see what was read, set the pins, say where it came from, store it. */
const emit = defineEmits<{ stored: [id: string]; leave: [] }>()

const { read, store } = useModelIntake()
const pasted = ref('')
const origin = reactive({ name: '', source: '', link: '' })
const roles = ref<Roles>({})
const reading = computed(() => read.data.value)
const complete = computed(
  () => origin.name.trim() && origin.source.trim() && Object.values(roles.value).every((list) => !refusal(list)),
)

async function take(file: Blob) {
  store.reset()
  try {
    roles.value = proposed(await read.mutateAsync(file))
  } catch {
    // The refusal is shown from `read.error`.
  }
}

function takeText() {
  void take(new Blob([pasted.value]))
}

function takeFile(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  origin.name = file.name
  void take(file)
}

async function keep() {
  if (!reading.value) return
  try {
    const stored = await store.mutateAsync({ ...origin, text: reading.value.text, roles: roles.value })
    emit('stored', stored.entry.id)
  } catch {
    // The refusal is shown from `store.error`.
  }
}
</script>

<template>
  <section aria-label="Take in a model">
    <h2>Take in a model</h2>
    <template v-if="!reading">
      <p class="soft">Paste the maker’s whole file, from its header comment to <code>.ends</code>, or choose it.</p>
      <v-textarea v-model="pasted" rows="14" class="mono" placeholder="* …&#10;.subckt …" aria-label="Text of the model file" hide-details />
      <div class="actions">
        <v-btn variant="flat" :disabled="!pasted.trim()" :loading="read.isPending.value" @click="takeText">Read the text</v-btn>
        <label class="file">or a file <input type="file" aria-label="Model file" @change="takeFile"></label>
        <v-btn variant="text" @click="emit('leave')">Cancel</v-btn>
      </div>
      <v-alert v-if="read.error.value" type="error" variant="tonal" :text="read.error.value.message" />
    </template>
    <template v-else>
      <FindingList v-if="reading.findings.length" class="mb-3" :findings="reading.findings" />
      <p v-else class="soft">Every statement was read.</p>
      <div v-for="subcircuit in reading.subcircuits" :key="subcircuit.name" class="mb-4">
        <PinTable
          :subcircuit="subcircuit" :known="reading.roles_known" :roles="roles[subcircuit.name] ?? []"
          @change="roles[subcircuit.name] = $event"
        />
      </div>
      <p v-for="model in reading.models" :key="model.name">Model <b class="mono">{{ model.name }}</b>, {{ model.family }}, line {{ model.line }}</p>
      <template v-if="!reading.storable">
        <v-alert type="error" variant="tonal" text="The file has errors, and nothing was stored. Go back to the text, mend them, and read it again." />
        <div class="actions"><v-btn @click="read.reset()">Back to the text</v-btn></div>
      </template>
      <form v-else class="origin" @submit.prevent="keep">
        <v-text-field v-model="origin.name" label="Name of the file" maxlength="120" hide-details />
        <v-text-field v-model="origin.source" label="Where it came from" placeholder="maker’s product page, release 2.1" maxlength="500" hide-details />
        <v-text-field v-model="origin.link" label="Link (optional)" maxlength="500" hide-details />
        <v-alert v-if="store.error.value" type="error" variant="tonal" :text="store.error.value.message" />
        <div class="actions">
          <v-btn type="submit" variant="flat" :disabled="!complete" :loading="store.isPending.value">Store it</v-btn>
          <v-btn variant="text" @click="read.reset()">Back to the text</v-btn>
        </div>
      </form>
      <ModelText :text="reading.text" :findings="reading.findings" />
    </template>
  </section>
</template>

<style scoped>
.origin {
  display: grid;
  gap: 10px;
  margin: 16px 0;
  max-width: 620px;
}
</style>
