<script setup lang="ts">
import { useCatalogue } from '@/api/models'
import { mdiOpenInNew } from '@mdi/js'
import { computed, ref } from 'vue'

/** The makers' catalogue: parts by maker, each to be fetched with its data sheet. */
defineProps<{ busy: string }>()
const emit = defineEmits<{ fetch: [slug: string] }>()

const { data, error } = useCatalogue()
const wanted = ref('')
const found = computed(() =>
  (data.value?.listings ?? []).filter((listing) =>
    `${listing.part} ${listing.maker} ${listing.kind} ${listing.summary}`.toLowerCase().includes(wanted.value.trim().toLowerCase()),
  ),
)
</script>

<template>
  <section aria-label="Makers’ catalogue">
    <div class="head">
      <v-text-field v-model="wanted" label="Search the makers’ catalogue" hide-details clearable />
      <a v-if="data?.address" :href="data.address" target="_blank" rel="noreferrer">its own pages <v-icon :icon="mdiOpenInNew" size="14" /></a>
    </div>
    <v-alert v-if="error" type="info" variant="tonal" :text="error.message" />
    <div class="scroll">
      <table class="ruled">
        <thead><tr><th>Part</th><th>Kind</th><th>What it is</th><th>Maker</th><th>Released</th><th /></tr></thead>
        <tbody>
          <tr v-for="listing in found" :key="listing.slug">
            <td class="mono">{{ listing.part }}</td><td>{{ listing.kind }}</td><td>{{ listing.summary }}</td><td>{{ listing.maker }}</td>
            <td class="mono">{{ listing.released }}</td>
            <td><v-btn size="small" :loading="busy === listing.slug" :aria-label="`Fetch ${listing.part}`" @click="emit('fetch', listing.slug)">Fetch</v-btn></td>
          </tr>
          <tr v-if="data && !found.length"><td colspan="6" class="soft">No part matches.</td></tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.head {
  align-items: center;
  display: flex;
  gap: 16px;
  margin-bottom: 8px;
  max-width: 560px;
}

.head .v-text-field {
  flex: 1;
}

.scroll {
  max-height: 430px;
  overflow: auto;
}

table.ruled td:nth-child(n + 4) {
  white-space: nowrap;
}

table.ruled td {
  padding-bottom: 3px;
  padding-top: 3px;
  vertical-align: middle;
}
</style>
