<script setup lang="ts">
import type { DataSheetLine, Reading, ReadingEntry } from '@/api/client'
import { useIntake, useKinds, useReadDataSheet } from '@/api/models'
import FindingList from '@/components/FindingList.vue'
import { computed, reactive, ref } from 'vue'
import CatalogueList from './CatalogueList.vue'
import ModelText from './ModelText.vue'
import PinAssignment from './PinAssignment.vue'
import { refusal } from './roles'

/** Taking in a model: hand in files, see what was read, choose a model, set its pins, say where it came from, store it. */
const emit = defineEmits<{ stored: [id: string]; leave: [] }>()

const { read, fetch, store } = useIntake()
const { data: kinds } = useKinds()
const sheet = useReadDataSheet()
const pasted = ref('')
const over = ref(false)
const fetching = ref('')
const reading = ref<Reading>()
const chosen = ref('')
const roles = ref<string[]>([])
const kindKey = ref('other')
const dataSheet = ref<DataSheetLine[]>([])
const tab = ref<'pins' | 'text'>('pins')
const origin = reactive({ source: '', link: '', obtained_on: new Date().toISOString().slice(0, 10), obtained_by: '' })

const entry = computed(() => reading.value?.entries.find((candidate) => candidate.entry.name === chosen.value))
const kind = computed(() => kinds.value?.find((other) => other.key === kindKey.value))
const usable = computed(() => reading.value?.entries.filter(({ entry: { problem } }) => !problem) ?? [])
const complete = computed(
  () => entry.value && !entry.value.entry.problem && !refusal(roles.value) && origin.source.trim() && origin.obtained_on,
)
const trouble = computed(() => read.error.value ?? fetch.error.value)

function choose(candidate: ReadingEntry | undefined, as?: string) {
  chosen.value = candidate?.entry.name ?? ''
  kindKey.value = as ?? candidate?.entry.kind.kind ?? 'other'
  roles.value = candidate?.entry.pins.map((pin) => pin.role ?? pin.node) ?? []
}

/** The model that is most likely meant: usable, and no helper of another one. */
function show(found: Reading) {
  reading.value = found
  store.reset()
  const own = found.entries.filter(({ entry: { problem, part_of } }) => !problem && !part_of)
  choose(found.entries.find(({ entry: { name } }) => name === found.model) ?? own[0] ?? found.entries[0])
  tab.value = found.findings.some(({ severity }) => severity === 'error') ? 'text' : 'pins'
}

async function take(files: readonly { name: string; data: Blob }[]) {
  if (!files.length) return
  try {
    fetch.reset()
    dataSheet.value = []
    show(await read.mutateAsync(files))
  } catch {
    // The refusal is shown from `read.error`.
  }
}

function takeText() {
  void take([{ name: 'pasted.lib', data: new Blob([pasted.value]) }])
}

function takeFiles(list: FileList | null | undefined) {
  void take([...(list ?? [])].map((file) => ({ name: file.name, data: file })))
}

async function takeListing(slug: string) {
  fetching.value = slug
  try {
    read.reset()
    const found = await fetch.mutateAsync(slug)
    if (found.origin) Object.assign(origin, found.origin)
    show(found)
    dataSheet.value = found.data_sheet ? (await sheet.mutateAsync({ kind: kindKey.value, csv: found.data_sheet })).lines : []
  } catch {
    // The refusal is shown from `fetch.error`.
  } finally {
    fetching.value = ''
  }
}

async function keep() {
  if (!reading.value || !entry.value) return
  const { file, name, description } = entry.value.entry
  try {
    const [stored] = await store.mutateAsync({
      files: reading.value.files,
      origin: { ...origin },
      chosen: [{ file, name, kind: kindKey.value, roles: roles.value, description, data_sheet: dataSheet.value }],
    })
    if (stored) emit('stored', stored.id)
  } catch {
    // The refusal is shown from `store.error`.
  }
}
</script>

<template>
  <section aria-label="Take in a model">
    <h2>Take in a model</h2>
    <template v-if="!reading">
      <div class="hand">
        <div
          class="drop" :class="{ over }" @dragover.prevent="over = true" @dragleave="over = false"
          @drop.prevent="over = false; takeFiles($event.dataTransfer?.files)"
        >
          <v-textarea
            v-model="pasted" rows="9" class="mono" placeholder="* Paste the maker’s whole file here, from its header comment to .ends,&#10;* or drop one file, several that belong together, or a .zip of them."
            aria-label="Text of the model file" hide-details
          />
        </div>
        <div class="actions">
          <v-btn variant="flat" :disabled="!pasted.trim()" :loading="read.isPending.value" @click="takeText">
            Read the text
          </v-btn>
          <label class="file">Choose files <input type="file" multiple aria-label="Model files" @change="takeFiles(($event.target as HTMLInputElement).files)"></label>
          <v-btn variant="text" @click="emit('leave')">Cancel</v-btn>
        </div>
        <v-alert v-if="trouble" type="error" variant="tonal" :text="trouble.message" />
      </div>
      <CatalogueList :busy="fetching" @fetch="takeListing" />
    </template>
    <template v-else>
      <div class="actions">
        <v-btn @click="reading = undefined; read.reset(); fetch.reset()">Back</v-btn>
        <span v-if="reading.stored_as" class="soft">These very files are stored already; what you choose is added to them.</span>
      </div>
      <FindingList v-if="reading.findings.length" class="mb-2" :findings="reading.findings.slice(0, 6)" />
      <p v-if="reading.findings.length > 6" class="soft">… and {{ reading.findings.length - 6 }} more beside the text.</p>
      <p v-if="!reading.findings.length" class="soft">Every statement was read.</p>
      <v-alert v-if="!usable.length" type="error" variant="tonal" class="mb-2" text="Nothing in these files can be used, and nothing was stored. Mend them, or hand in what is missing together with them." />
      <div v-if="reading.entries.length > 1" class="choice" role="radiogroup" aria-label="Model">
        <button
          v-for="candidate in reading.entries" :key="candidate.entry.file + candidate.entry.name" type="button" role="radio"
          :aria-checked="candidate.entry.name === chosen" @click="choose(candidate)"
        >
          <b class="mono">{{ candidate.entry.name.toUpperCase() }}</b>
          <span class="soft">{{ candidate.entry.problem ? 'cannot be used' : candidate.entry.part_of ? `part of ${candidate.entry.part_of.toUpperCase()}` : candidate.entry.kind.kind }}</span>
        </button>
      </div>
      <template v-if="entry && kind">
        <div class="name">
          <h2 class="mono">{{ entry.entry.name.toUpperCase() }}</h2>
          <span class="soft">{{ entry.entry.form === 'model' ? 'a .model' : `${entry.entry.elements} elements` }}, line {{ entry.entry.line }}<template v-if="entry.entry.description">: “{{ entry.entry.description }}”</template></span>
        </div>
        <div class="kind">
          <v-select
            :model-value="kindKey" :items="kinds" item-title="title" item-value="key" label="Kind" hide-details
            @update:model-value="kindKey = String($event)"
          />
          <span class="soft">{{ entry.entry.kind.sureness }}: {{ entry.entry.kind.reason }}</span>
          <v-spacer />
          <v-btn-toggle v-model="tab" mandatory density="compact" variant="outlined">
            <v-btn value="pins">Pins</v-btn><v-btn value="text">Text</v-btn>
          </v-btn-toggle>
        </div>
        <p v-if="entry.on_shelf && !reading.stored_as" class="version">A model of this name is on the shelf. This one is stored beside it, as its newer version.</p>
        <PinAssignment
          v-if="tab === 'pins'" :files="reading.files" :file="entry.entry.file" :name="entry.entry.name" :nodes="entry.entry.pins.map((pin) => pin.node)"
          :roles="roles" :kind="kind" :pins="entry.entry.pins" @change="roles = $event"
        />
        <ModelText v-else :files="reading.files" :findings="reading.findings" :at="{ file: entry.entry.file, line: entry.entry.line }" />
        <form v-if="!entry.entry.problem" class="origin" @submit.prevent="keep">
          <v-text-field v-model="origin.source" label="Where it came from" placeholder="maker’s product page, release 2.1" maxlength="500" hide-details />
          <v-text-field v-model="origin.link" label="Link (optional)" maxlength="500" hide-details />
          <v-text-field v-model="origin.obtained_on" type="date" label="Obtained on" hide-details />
          <v-text-field v-model="origin.obtained_by" label="By whom (optional)" maxlength="500" hide-details />
          <p v-if="reading.terms" class="terms soft"><b>Terms of use found in it:</b> {{ reading.terms }}</p>
          <p v-if="dataSheet.length" class="terms soft">{{ dataSheet.length }} lines of its data sheet come with it.</p>
          <v-alert v-if="store.error.value" class="terms" type="error" variant="tonal" :text="store.error.value.message" />
          <div class="actions terms">
            <v-btn type="submit" variant="flat" :disabled="!complete" :loading="store.isPending.value">Store it</v-btn>
            <v-btn variant="text" @click="emit('leave')">Cancel</v-btn>
          </div>
        </form>
      </template>
      <ModelText v-else :files="reading.files" :findings="reading.findings" />
    </template>
  </section>
</template>

<style scoped>
.hand {
  margin: 8px 0 20px;
}

.drop {
  border-radius: var(--corner);
}

.drop.over {
  outline: 2px dashed var(--accent);
  outline-offset: 3px;
}

.choice {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin: 8px 0;
  max-height: 150px;
  overflow: auto;
}

.choice button {
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  display: grid;
  padding: 4px 12px;
  text-align: left;
}

.choice button[aria-checked='true'] {
  background: var(--paper-raised);
  border-color: var(--ink);
  box-shadow: inset 3px 0 0 var(--ink);
}

.name {
  align-items: baseline;
  display: flex;
  gap: 12px;
  margin-top: 8px;
}

.kind {
  align-items: center;
  display: flex;
  gap: 12px;
  margin: 10px 0 12px;
}

.kind .v-select {
  flex: none;
  width: 220px;
}

.version {
  color: var(--thin);
}

.origin {
  display: grid;
  gap: 10px 14px;
  grid-template-columns: 1fr 1fr;
  margin: 18px 0;
  max-width: 760px;
}

.terms {
  grid-column: 1 / -1;
  margin: 0;
  white-space: pre-line;
}
</style>
