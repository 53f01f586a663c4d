<script setup lang="ts">
import type { FixtureDrawing } from './outside'
import { useTurned } from './turned'

/** One supply, source or load outside the board edge, with its words. */
defineProps<{ drawing: FixtureDrawing; selected: boolean }>()
const emit = defineEmits<{ edit: [what: string] }>()
const turned = useTurned()
</script>

<template>
  <g class="symbol" :class="{ selected }" :data-fixture="drawing.fixture.name">
    <path v-if="drawing.filled" class="filled" :d="drawing.filled" />
    <path class="strokes" :class="{ thick: drawing.fixture.kind === 'supply' }" :d="drawing.strokes" />
    <path
      v-for="(ground, k) in drawing.grounds" :key="k" class="strokes" d="M0 0V6M-9 6H9M-5.5 10H5.5M-2 14H2"
      :transform="`translate(${ground.x} ${ground.y})`"
    />
    <template v-for="(text, k) in drawing.texts" :key="`t${k}`">
      <g
        v-if="text.part" class="value" :class="{ turned: turned[text.part] !== undefined }" role="button" tabindex="0" :data-part="text.part"
        :aria-label="`${text.part.replace('.', ', ')}, ${text.text}: change it`" @pointerdown.stop
        @click.stop="emit('edit', text.part)" @keydown.enter.prevent.stop="emit('edit', text.part)"
      >
        <rect :x="text.box.left - 3" :y="text.box.top - 1" :width="text.box.right - text.box.left + 6" height="17" rx="3" />
        <text :x="text.x" :y="text.y" :text-anchor="text.anchor">{{ turned[text.part] ?? text.text }}</text>
      </g>
      <text v-else :class="text.role" :x="text.x" :y="text.y" :text-anchor="text.anchor">{{ text.text }}</text>
    </template>
  </g>
</template>
