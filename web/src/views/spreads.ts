import type { Part } from '@/api/client'

/** Parts whose value can spread. */
export type Spreadable = Extract<Part, { value: string }>

export const REFUSAL = 'Enter per cent between 0 and 100, or leave it empty.'

/** Per cent as they are typed; null where it is no tolerance. */
export function tolerance(text: string): number | null {
  const value = Number(text.replace('%', '').trim())
  return text.trim() !== '' && Number.isFinite(value) && value > 0 && value < 100 ? value : null
}
