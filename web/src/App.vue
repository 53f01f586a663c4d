<script setup lang="ts">
import { usePreferredScheme } from './components/usePreferredScheme'

usePreferredScheme()
</script>

<template>
  <v-app>
    <router-view />
  </v-app>
</template>
