import type { ModelEntry } from '@/api/client'

/** A figure by which a kind is looked for: at least, or at most, what is typed. */
export interface KeyFigure {
  figure: string
  label: string
  most?: boolean
}

export const KEY_FIGURES: Record<string, KeyFigure[]> = {
  'op-amp': [
    { figure: 'gain_bandwidth', label: 'Gain-bandwidth of at least / Hz' },
    { figure: 'voltage_noise', label: 'Noise of at most / V/√Hz', most: true },
    { figure: 'supply_current', label: 'Supply current of at most / A', most: true },
  ],
  comparator: [{ figure: 'delay_rising', label: 'Delay of at most / s', most: true }],
  diode: [{ figure: 'breakdown_voltage', label: 'Breakdown of at least / V' }],
  clamp: [{ figure: 'breakdown_voltage', label: 'Breakdown of at least / V' }],
  bipolar: [{ figure: 'current_gain', label: 'Current gain of at least' }],
  mosfet: [{ figure: 'on_resistance', label: 'On-resistance of at most / Ω', most: true }],
}

const PREFIXES: Record<string, number> = {
  f: 1e-15, p: 1e-12, n: 1e-9, u: 1e-6, µ: 1e-6, m: 1e-3, k: 1e3, M: 1e6, G: 1e9, T: 1e12,
}

/** A number such as 5M or 10n; null for what is none. */
export function bound(text: string): number | null {
  const match = /^\s*([-−]?[\d.]+(?:[eE][+-]?\d+)?)\s*([fpnuµmkMGT])?\s*$/.exec(text)
  if (!match) return null
  const value = Number(match[1]?.replace('−', '-')) * (match[2] ? (PREFIXES[match[2]] ?? 1) : 1)
  return Number.isFinite(value) ? value : null
}

/** The models that hold all words, are of a kind, and whose measured key figures keep the bounds. */
export function filtered(models: readonly ModelEntry[], words: string | null, kind: string | null, bounds: Record<string, string>): ModelEntry[] {
  const wanted = (words ?? '').toLowerCase().split(/\s+/).filter(Boolean)
  const keys = (kind ? (KEY_FIGURES[kind] ?? []) : []).flatMap((key) => {
    const value = bound(bounds[key.figure] ?? '')
    return value === null ? [] : [{ ...key, value }]
  })
  return models.filter((model) => {
    const text = `${model.name} ${model.kind} ${model.description} ${model.source} ${model.badge_text}`.toLowerCase()
    if (kind && model.kind !== kind) return false
    if (!wanted.every((word) => text.includes(word))) return false
    return keys.every(({ figure, most, value }) => {
      const measured = model.figures[figure]
      return measured != null && (most ? measured <= value : measured >= value)
    })
  })
}

/** Which version of its name a model is, as words; empty where there is only one. */
export function versionOf(models: readonly ModelEntry[], id: string): string {
  const name = models.find((model) => model.id === id)?.name
  const same = models.filter((model) => model.name === name).sort((a, b) => a.added_at.localeCompare(b.added_at))
  return same.length > 1 ? `version ${same.findIndex((model) => model.id === id) + 1}` : ''
}

/** The newest model of the same name. */
export function newestOf(models: readonly ModelEntry[], id: string): ModelEntry | undefined {
  const name = models.find((model) => model.id === id)?.name
  return models.filter((model) => model.name === name).sort((a, b) => b.added_at.localeCompare(a.added_at))[0]
}
