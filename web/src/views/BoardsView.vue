<script setup lang="ts">
import { useBoards } from '@/api/queries'
import { useCreateBoard, useOpenBoardFile, useRemoveBoard } from '@/api/sheet'
import { ref, useTemplateRef } from 'vue'
import { useRouter } from 'vue-router'

const router = useRouter()
const create = useCreateBoard()
const remove = useRemoveBoard()
/** The board that is to be removed, until that is confirmed. */
const leaving = ref('')
const beginning = ref(false)
const title = ref('')
const purpose = ref('')

async function begin() {
  // A refusal stands under the fields.
  const board = await create.mutateAsync({ title: title.value, purpose: purpose.value }).catch(() => undefined)
  if (board) await router.push({ name: 'sheet', params: { board: board.id } })
}

const open = useOpenBoardFile()
const picker = useTemplateRef<HTMLInputElement>('picker')
async function openFile(file: File | undefined) {
  if (picker.value) picker.value.value = ''
  // A refusal stands under the buttons.
  const board = file && (await open.mutateAsync(file).catch(() => undefined))
  if (board) await router.push({ name: 'sheet', params: { board: board.id } })
}

const { data: boards, error, isPending } = useBoards()
const day = (text: string) => new Date(text).toLocaleDateString(undefined, { dateStyle: 'medium' })
</script>

<template>
  <v-main class="page" @dragover.prevent @drop.prevent="openFile($event.dataTransfer?.files[0])">
    <h1>Verdad</h1>
    <p class="soft">Does this board hold, and what shows it?</p>
    <form v-if="beginning" class="new" @submit.prevent="begin">
      <v-text-field v-model="title" label="Name of the board" maxlength="120" hide-details autofocus />
      <v-text-field v-model="purpose" label="What it is for" maxlength="2000" hide-details />
      <p v-if="create.error.value" role="alert" class="wrong">{{ create.error.value.message }}</p>
      <div class="actions">
        <v-btn type="submit" variant="flat" :disabled="!title.trim()">Begin</v-btn>
        <v-btn variant="text" @click="beginning = false">Cancel</v-btn>
      </div>
    </form>
    <div v-else class="actions mt-4">
      <v-btn @click="beginning = true">New board</v-btn>
      <v-btn variant="text" :loading="open.isPending.value" title="A board that was saved as a file, with its models; or drop it here" @click="picker?.click()">Open a board file</v-btn>
      <input ref="picker" type="file" hidden accept=".json" aria-label="Board file" @change="openFile(($event.target as HTMLInputElement).files?.[0])">
    </div>
    <v-alert v-if="open.error.value" type="error" variant="tonal" class="mt-3" :text="open.error.value.message" />
    <v-alert v-if="remove.error.value" type="error" variant="tonal" class="mt-3" :text="remove.error.value.message" />
    <v-alert v-if="error" type="error" variant="tonal" :text="error.message" />
    <p v-else-if="isPending" class="soft">Reading the boards …</p>
    <p v-else-if="!boards?.length">There is no board yet. Begin one, or let <code>./verdad demo</code> load one to start from.</p>
    <ul v-else>
      <li v-for="board in boards" :key="board.id">
        <router-link :to="{ name: 'sheet', params: { board: board.id } }">{{ board.title }}</router-link>
        <p>{{ board.purpose }}</p>
        <p class="soft foot">changed {{ day(board.updated_at) }}
          <button v-if="leaving !== board.id" type="button" :aria-label="`Remove ${board.title}`" @click="leaving = board.id">Remove</button>
          <span v-else>Remove it with all its revisions and results?
            <button type="button" @click="remove.mutate(board.id)">Yes, remove it</button>
            <button type="button" @click="leaving = ''">Keep it</button>
          </span>
        </p>
      </li>
    </ul>
  </v-main>
</template>

<style scoped>
.page {
  margin: 64px auto;
  max-width: 720px;
  padding: 0 24px;
}

.new {
  display: grid;
  gap: 12px;
  margin-top: 16px;
}

.wrong {
  color: var(--breaks);
}

ul {
  list-style: none;
  margin-top: 24px;
  padding: 0;
}

li {
  background: var(--paper-raised);
  border: 1px solid var(--rule);
  border-radius: var(--corner);
  margin-bottom: 12px;
  padding: 14px 18px;
}

li a {
  color: var(--ink);
  font-size: var(--size-lead);
  font-weight: 600;
}

li p {
  margin: 4px 0 0;
}

.foot {
  display: flex;
  gap: 14px;
  justify-content: space-between;
}

.foot button {
  color: var(--ink);
  margin-left: 10px;
  text-decoration: underline;
}
</style>
