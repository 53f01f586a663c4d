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

/** A value as it is turned to: to as many digits as tell it from its neighbours on any card. */
export const asTurned = (value: number) => String(Number(value.toPrecision(8)))
