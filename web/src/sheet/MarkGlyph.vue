<script setup lang="ts">
import type { Mark } from './ends'
import { markText } from './pieces'

/** Ground, a supply rail, or the name of a net. */
defineProps<{ mark: Mark; selected?: boolean }>()
</script>

<template>
  <g class="mark" :class="{ selected }" :data-mark="mark.id">
    <path
      v-if="mark.kind === 'ground'" class="strokes" d="M0 0V6M-9 6H9M-5.5 10H5.5M-2 14H2"
      :transform="`translate(${mark.x} ${mark.y}) rotate(${90 * mark.turn})`"
    />
    <template v-else-if="mark.kind === 'rail'">
      <path class="strokes thick" d="M-9 0H9" :transform="`translate(${mark.x} ${mark.y}) rotate(${90 * mark.turn})`" />
      <text class="note" v-bind="{ x: markText(mark).x, y: markText(mark).y }" :text-anchor="markText(mark).anchor">{{ mark.net }}</text>
    </template>
    <template v-else>
      <path class="strokes" :d="mark.turn === 2 ? `M${mark.x} ${mark.y}l-8 -5v10Z` : `M${mark.x} ${mark.y}l8 -5v10Z`" />
      <text class="net-name" v-bind="{ x: markText(mark).x, y: markText(mark).y }" :text-anchor="markText(mark).anchor">{{ mark.net }}</text>
    </template>
  </g>
</template>
