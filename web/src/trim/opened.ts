import { typed } from '@/format/engineering'
import { shallowRef } from 'vue'

/** A row of a study that is to be opened on the sheet: the check, the values of that unit, and what to call it. */
export interface OpenedRow {
  check: string
  title: string
  values: Record<string, string>
}

const waiting = shallowRef<OpenedRow | null>(null)

export function openRow(row: OpenedRow) {
  waiting.value = row
}

/** What waits to be opened, once. */
export function takeOpenedRow(): OpenedRow | null {
  const row = waiting.value
  waiting.value = null
  return row
}

/** A value as it is turned to: with more digits than any card tells. */
export const asTurned = (value: number) => typed(value, 6)
