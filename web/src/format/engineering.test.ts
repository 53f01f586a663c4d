import { describe, expect, it } from 'vitest'
import { engineering, percent, signedPercent, tick } from './engineering'

describe('engineering', () => {
  it.each([
    [951.5417, 'Hz', '951.5 Hz'],
    [15915.5, 'Hz', '15.92 kHz'],
    [-0.00015157, 'V', '−151.6 µV'],
    [999.96, 'Hz', '1.000 kHz'],
    [5, 'V', '5.000 V'],
    [0, 'V', '0 V'],
    [38.7705, 'V/V', '38.77'],
    [-3.0103, 'dB', '−3.010 dB'],
  ])('writes %d %s as %s', (value, unit, text) => {
    expect(engineering(value, unit)).toBe(text)
  })

  it('says that there is no value', () => {
    expect(engineering(null, 'V')).toBe('–')
    expect(engineering(Number.NaN, 'V')).toBe('–')
  })
})

describe('percent', () => {
  it('writes shares and signed deviations', () => {
    expect(percent(0.98)).toBe('98.0 %')
    expect(percent(null)).toBe('–')
    expect(signedPercent(-0.0043)).toBe('+0.00 %')
    expect(signedPercent(-3.14159)).toBe('−3.14 %')
    expect(signedPercent(12.34)).toBe('+12.3 %')
  })
})

describe('tick', () => {
  it.each([
    [1, '1'],
    [1000, '1 k'],
    [100000, '100 k'],
    [0.01, '10 m'],
    [0, '0'],
    [-40, '−40'],
  ])('labels %d as %s', (value, text) => {
    expect(tick(value)).toBe(text)
  })
})
