import type { Fixture, Source, Waveform } from '@/api/client'

/** What can be attached to a net from outside the board edge. */

export interface FixtureKind {
  key: string
  title: string
  /** Where it is drawn. */
  side: 'left' | 'right' | 'top'
  make: (shared: { name: string; plus: string; minus: string }) => Fixture
}

const source = (waveform: Waveform | null, more: Partial<Source> = {}) => (shared: { name: string; plus: string; minus: string }): Fixture =>
  ({ kind: 'source', ...shared, quantity: 'voltage', dc: '0', ac: '1', phase: '0', resistance: '50', waveform, ...more })

export const WAVEFORMS: Record<Waveform['kind'], { title: string; make: () => Waveform }> = {
  sine: { title: 'sine', make: () => ({ kind: 'sine', amplitude: '1', frequency: '1k', phase: '0', delay: '0' }) },
  step: { title: 'step', make: () => ({ kind: 'step', level: '1', delay: '10u', rise: '10n' }) },
  pulse: { title: 'pulse', make: () => ({ kind: 'pulse', level: '1', delay: '0', rise: '10n', fall: '10n', width: '500u', every: '1m' }) },
  'piecewise linear': { title: 'piecewise linear', make: () => ({ kind: 'piecewise linear', corners: [['0', '0'], ['1m', '0'], ['1m', '1'], ['2m', '1']], repeat: false }) },
  noise: { title: 'noise', make: () => ({ kind: 'noise', rms: '10m', interval: '10u', seed: 1 }) },
  recorded: { title: 'recording', make: () => ({ kind: 'recorded', file: 'no file yet', interval: '1m', samples: [0, 0], scale: '1', repeat: false }) },
}

export const FIXTURES: readonly FixtureKind[] = [
  { key: 'supply', title: 'Supply, 5 V', side: 'top', make: (shared) => ({ kind: 'supply', ...shared, volts: '5' }) },
  { key: 'source', title: 'DC and AC source', side: 'left', make: source(null) },
  { key: 'sine', title: 'Sine', side: 'left', make: source(WAVEFORMS.sine.make()) },
  { key: 'step', title: 'Step', side: 'left', make: source(WAVEFORMS.step.make()) },
  { key: 'pulse', title: 'Pulse', side: 'left', make: source(WAVEFORMS.pulse.make()) },
  { key: 'piecewise', title: 'Piecewise linear', side: 'left', make: source(WAVEFORMS['piecewise linear'].make()) },
  { key: 'noise', title: 'Noise', side: 'left', make: source(WAVEFORMS.noise.make()) },
  { key: 'recording', title: 'Recording (CSV, WAV)', side: 'left', make: source(WAVEFORMS.recorded.make()) },
  { key: 'current-source', title: 'Current source', side: 'left', make: source(null, { quantity: 'current', dc: '1m', ac: '1', resistance: '0' }) },
  { key: 'port', title: 'Port, 50 Ω', side: 'left', make: (shared) => ({ kind: 'port', ...shared, number: 1, impedance: '50' }) },
  { key: 'load', title: 'Load, 10 kΩ', side: 'right', make: (shared) => ({ kind: 'load', ...shared, resistance: '10k' }) },
  { key: 'capacitance', title: 'Capacitive load, 100 pF', side: 'right', make: (shared) => ({ kind: 'load', ...shared, capacitance: '100p' }) },
  { key: 'current', title: 'Current load, 10 mA', side: 'right', make: (shared) => ({ kind: 'load', ...shared, current: '10m' }) },
]

/** A name for a fixture of a kind that no other one of the check has. */
export function freeFixtureName(present: readonly Fixture[], kind: string): string {
  let name = kind
  for (let k = 2; present.some((other) => other.name === name); k += 1) name = `${kind}-${k}`
  return name
}
