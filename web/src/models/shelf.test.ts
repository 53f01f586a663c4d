import type { ModelEntry } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { bound, filtered, newestOf, versionOf } from './shelf'

const entry = (name: string, kind: string, figures: Record<string, number | null>) =>
  ({ name, kind, figures, description: 'low noise', source: 'maker', badge_text: 'qualified (1 of 1)' }) as unknown as ModelEntry

const models = [
  entry('fast', 'op-amp', { gain_bandwidth: 20e6, voltage_noise: 6e-9 }),
  entry('slow', 'op-amp', { gain_bandwidth: 1e6, voltage_noise: null }),
  entry('zener', 'clamp', {}),
]
const names = (found: ModelEntry[]) => found.map((model) => model.name)

describe('the shelf', () => {
  it('is searched by words and kind', () => {
    expect(names(filtered(models, 'noise FAST', null, {}))).toEqual(['fast'])
    expect(names(filtered(models, null, 'clamp', {}))).toEqual(['zener'])
  })

  it('is filtered by what was measured; what was not does not pass', () => {
    expect(names(filtered(models, '', 'op-amp', { gain_bandwidth: '5M' }))).toEqual(['fast'])
    expect(names(filtered(models, '', 'op-amp', { voltage_noise: '10n' }))).toEqual(['fast'])
    expect(names(filtered(models, '', 'op-amp', { voltage_noise: 'x' }))).toEqual(['fast', 'slow'])
  })

  it('counts versions of a name in the order in which they came', () => {
    const shelf = [
      { id: 'b', name: 'x', added_at: '2026-02' }, { id: 'a', name: 'x', added_at: '2026-01' }, { id: 'c', name: 'y', added_at: '2026-01' },
    ] as unknown as ModelEntry[]
    expect(['a', 'b', 'c'].map((id) => versionOf(shelf, id))).toEqual(['version 1', 'version 2', ''])
    expect(newestOf(shelf, 'a')?.id).toBe('b')
  })

  it('reads bounds with prefixes', () => {
    expect(bound('5M')).toBe(5e6)
    expect(bound('1.5e3')).toBe(1500)
    expect(bound('−30 n')).toBeCloseTo(-30e-9, 15)
    expect(bound('4k7')).toBeNull()
  })
})
