<script setup lang="ts">
import { useBoards } from '@/api/queries'

const { data: boards, error, isPending } = useBoards()
const day = (text: string) => new Date(text).toLocaleDateString(undefined, { dateStyle: 'medium' })
</script>

<template>
  <v-main class="page">
    <h1>Verdad</h1>
    <p class="soft">Does this board hold, and what shows it?</p>
    <v-alert v-if="error" type="error" variant="tonal" :text="error.message" />
    <p v-else-if="isPending" class="soft">Reading the boards …</p>
    <p v-else-if="!boards?.length">There is no board yet. <code>./verdad demo</code> loads one to start from.</p>
    <ul v-else>
      <li v-for="board in boards" :key="board.id">
        <router-link :to="{ name: 'sheet', params: { board: board.id } }">{{ board.title }}</router-link>
        <p>{{ board.purpose }}</p>
        <p class="soft">changed {{ day(board.updated_at) }}</p>
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

ul {
  list-style: none;
  margin-top: 32px;
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
</style>
