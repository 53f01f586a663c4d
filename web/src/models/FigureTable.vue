<script setup lang="ts">
import type { QualificationLine } from '@/api/client'
import { mdiAlertCircleOutline, mdiCheckCircleOutline, mdiCircleOffOutline, mdiHelpCircleOutline } from '@mdi/js'
import { figureText } from './figures'

/** The bench's figures beside the data sheet's, with the judgement of each line. */
defineProps<{ lines: QualificationLine[] }>()

const ICONS: Record<string, string> = {
  agrees: mdiCheckCircleOutline, off: mdiAlertCircleOutline, 'absent from the model': mdiCircleOffOutline,
  'not found out': mdiHelpCircleOutline,
}
const CLASSES: Record<string, string> = {
  agrees: 'agrees', off: 'off', 'absent from the model': 'absent', 'not found out': 'unknown',
}

function shown({ figure, unit }: QualificationLine): string {
  return figureText(figure.value, unit)
}

function deviation({ deviation, unit }: QualificationLine): string {
  if (deviation == null) return ''
  const text = Math.abs(deviation).toFixed(Math.abs(deviation) < 10 ? 1 : 0)
  return `${deviation < 0 && Number(text) ? '−' : '+'}${text} ${unit === 'dB' ? 'dB' : '%'}`
}
</script>

<template>
  <table class="ruled" aria-label="Figures of the bench and of the data sheet">
    <thead>
      <tr><th>Figure</th><th class="number">Bench</th><th>Data sheet</th><th class="number">Deviation</th><th>Judgement</th></tr>
    </thead>
    <tbody>
      <tr v-for="line in lines" :key="line.figure.key" :data-figure="line.figure.key">
        <td :title="line.meaning">{{ line.title }}</td>
        <td class="number">{{ shown(line) }}</td>
        <td class="mono sheet"><span v-for="part in line.data_sheet.split(', ')" :key="part">{{ part }}</span><span v-if="line.conditions" class="soft"> ({{ line.conditions }})</span></td>
        <td class="number">{{ deviation(line) }}</td>
        <td>
          <span v-if="line.agreement" class="judgement" :class="CLASSES[line.agreement]">
            <v-icon :icon="ICONS[line.agreement]" size="16" /> {{ line.agreement }}
          </span>
          <span v-else-if="line.figure.standing !== 'measured'" class="soft">{{ line.figure.standing }}</span>
          <span v-if="line.figure.remark || line.reason" class="soft reason">{{ line.agreement || line.figure.standing !== 'measured' ? ': ' : '' }}{{ line.figure.remark || line.reason }}</span>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.judgement {
  font-weight: 600;
}

.agrees {
  color: var(--holds);
}

.off {
  color: var(--breaks);
}

.absent {
  color: var(--thin);
}

.unknown {
  color: var(--unproven);
}

.sheet {
  font-size: 12px;
}

.sheet span {
  margin-right: 10px;
  white-space: nowrap;
}

td:first-child {
  white-space: nowrap;
}

table.ruled td {
  padding-bottom: 4px;
  padding-top: 4px;
}
</style>
