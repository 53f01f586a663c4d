import type { Box, Way } from './geometry'

/** The drawing of a kind, about its origin, in points of the sheet. */
export interface Drawn {
  strokes: string
  filled?: string
  body: Box
  /** Roles with their place and the way they look. */
  ends: [string, number, number, Way][]
  signs?: { text: string; x: number; y: number }[]
}

export const box = (left: number, top: number, right: number, bottom: number): Box => ({ left, top, right, bottom })

/** Shapes after IEC 60617; the ends are where wires meet them. */
export const SHAPES: Record<string, Drawn> = {
  resistor: {
    strokes: 'M-30 0H-19M19 0H30M-19 -7H19V7H-19Z', body: box(-20, -8, 20, 8),
    ends: [['1', -30, 0, 'west'], ['2', 30, 0, 'east']],
  },
  capacitor: {
    strokes: 'M-30 0H-4M4 0H30M-4 -13V13M4 -13V13', body: box(-6, -14, 6, 14),
    ends: [['1', -30, 0, 'west'], ['2', 30, 0, 'east']],
  },
  inductor: {
    strokes: 'M-30 0H-20a5 5 0 0 1 10 0a5 5 0 0 1 10 0a5 5 0 0 1 10 0a5 5 0 0 1 10 0H30', body: box(-20, -7, 20, 3),
    ends: [['1', -30, 0, 'west'], ['2', 30, 0, 'east']],
  },
  diode: {
    strokes: 'M-30 0H-10M10 0H30M10 -11V11', filled: 'M-10 -11V11L10 0Z', body: box(-11, -12, 12, 12),
    ends: [['anode', -30, 0, 'west'], ['cathode', 30, 0, 'east']],
  },
  clamp: {
    strokes: 'M-30 0H-10M10 0H30M4 -11H10V11H16', filled: 'M-10 -11V11L10 0Z', body: box(-11, -12, 17, 12),
    ends: [['anode', -30, 0, 'west'], ['cathode', 30, 0, 'east']],
  },
  amplifier: {
    strokes: 'M-60 -20H-40M-60 20H-40M45 0H60M0 -50V-24M0 24V50', filled: 'M-40 -48V48L45 0Z', body: box(-40, -48, 46, 48),
    ends: [['in-', -60, -20, 'west'], ['in+', -60, 20, 'west'], ['out', 60, 0, 'east'], ['v+', 0, -50, 'north'], ['v-', 0, 50, 'south']],
    signs: [{ text: '−', x: -29, y: -20 }, { text: '+', x: -29, y: 20 }],
  },
  // The unit of a package that has its supply pins elsewhere.
  'amplifier-unit': {
    strokes: 'M-60 -20H-40M-60 20H-40M45 0H60', filled: 'M-40 -48V48L45 0Z', body: box(-40, -48, 46, 48),
    ends: [['in-', -60, -20, 'west'], ['in+', -60, 20, 'west'], ['out', 60, 0, 'east']],
    signs: [{ text: '−', x: -29, y: -20 }, { text: '+', x: -29, y: 20 }],
  },
  bipolar: {
    strokes: 'M-30 0H-6M-6 -18V18M-6 -8L10 -22V-40M-6 8L10 22V40M2 21L10 22L7 14', body: box(-8, -24, 12, 24),
    ends: [['collector', 10, -40, 'north'], ['base', -30, 0, 'west'], ['emitter', 10, 40, 'south']],
  },
  'bipolar-p': {
    strokes: 'M-30 0H-6M-6 -18V18M-6 8L10 22V40M-6 -8L10 -22V-40M3 -10L-6 -8L-4 -17', body: box(-8, -24, 12, 24),
    ends: [['collector', 10, 40, 'south'], ['base', -30, 0, 'west'], ['emitter', 10, -40, 'north']],
  },
  jfet: {
    strokes: 'M-30 0H-6M-6 -18V18M-6 -12H10V-40M-6 12H10V40M-16 -4L-6 0L-16 4', body: box(-8, -20, 12, 20),
    ends: [['drain', 10, -40, 'north'], ['gate', -30, 0, 'west'], ['source', 10, 40, 'south']],
  },
  'jfet-p': {
    strokes: 'M-30 0H-6M-6 -18V18M-6 -12H10V-40M-6 12H10V40M-8 -4L-18 0L-8 4', body: box(-18, -20, 12, 20),
    ends: [['drain', 10, 40, 'south'], ['gate', -30, 0, 'west'], ['source', 10, -40, 'north']],
  },
  mosfet: {
    strokes: 'M-30 0H-12M-12 -16V16M-5 -20V-10M-5 -5V5M-5 10V20M-5 -15H10V-40M-5 15H10V40M-5 0H10V15M2 -4L-4 0L2 4',
    body: box(-13, -21, 12, 21),
    ends: [['drain', 10, -40, 'north'], ['gate', -30, 0, 'west'], ['source', 10, 40, 'south']],
  },
  'mosfet-p': {
    strokes: 'M-30 0H-12M-12 -16V16M-5 -20V-10M-5 -5V5M-5 10V20M-5 -15H10V-40M-5 15H10V40M-5 0H10V-15M3 -4L9 0L3 4',
    body: box(-13, -21, 12, 21),
    ends: [['drain', 10, 40, 'south'], ['gate', -30, 0, 'west'], ['source', 10, -40, 'north']],
  },
  switch: {
    strokes: 'M-30 0H-12M-12 0L11 -12M12 0H30M0 -6V30', body: box(-13, -13, 13, 8),
    ends: [['a', -30, 0, 'west'], ['b', 30, 0, 'east'], ['control', 0, 30, 'south']],
  },
  'switch-written': {
    strokes: 'M-30 0H-12M-12 0L11 -12M12 0H30M-10 30V14H10V30M0 -6V14', body: box(-13, -13, 13, 16),
    ends: [['1', -30, 0, 'west'], ['2', 30, 0, 'east'], ['3', -10, 30, 'south'], ['4', 10, 30, 'south']],
  },
  'switch-current': {
    strokes: 'M-30 0H-12M-12 0L11 -12M12 0H30', body: box(-13, -13, 13, 8),
    ends: [['1', -30, 0, 'west'], ['2', 30, 0, 'east']],
  },
  transformer: {
    strokes:
      'M-40 -20H-20M-40 20H-20M40 -20H20M40 20H20M-20 -20a5 5 0 0 1 0 10a5 5 0 0 1 0 10a5 5 0 0 1 0 10a5 5 0 0 1 0 10' +
      'M20 -20a5 5 0 0 0 0 10a5 5 0 0 0 0 10a5 5 0 0 0 0 10a5 5 0 0 0 0 10M-4 -22V22M4 -22V22',
    body: box(-22, -24, 22, 24),
    ends: [['primary+', -40, -20, 'west'], ['primary-', -40, 20, 'west'], ['secondary+', 40, -20, 'east'], ['secondary-', 40, 20, 'east']],
  },
  'source-written': {
    strokes: 'M0 -40V-20M0 20V40', filled: 'M0 -20L20 0L0 20L-20 0Z', body: box(-21, -21, 21, 21),
    ends: [['1', 0, -40, 'north'], ['2', 0, 40, 'south']],
    signs: [{ text: '+', x: 12, y: -27 }],
  },
  'source-controlled': {
    strokes: 'M0 -40V-20M0 20V40M-40 -20H-30V-10M-40 20H-30V10', filled: 'M0 -20L20 0L0 20L-20 0Z', body: box(-32, -21, 21, 21),
    ends: [['1', 0, -40, 'north'], ['2', 0, 40, 'south'], ['3', -40, -20, 'west'], ['4', -40, 20, 'west']],
    signs: [{ text: '+', x: 12, y: -27 }, { text: '+', x: -24, y: -20 }],
  },
}
