import { expect, it } from 'vitest'
import { contourLines, edgesOf } from './contour'

const along = [0, 1, 2, 3, 4]
const across = [10, 20, 30, 40]

it('follows a plane along the straight line on which it has the level', () => {
  const values = across.flatMap((y) => along.map((x) => x + y / 10))
  const [line, ...more] = contourLines(values, along, across, 3.5)
  expect(more).toEqual([])
  expect(line?.length).toBeGreaterThan(3)
  for (const [x, y] of line ?? []) expect(x + y / 10).toBeCloseTo(3.5, 9)
})

it('closes about a hill, and has none where the level is not passed or nothing is known', () => {
  const hill = across.flatMap((y) => along.map((x) => -((x - 2) ** 2) - ((y - 25) / 10) ** 2))
  const [ring] = contourLines(hill, along, across, -1.2)
  expect(ring?.[0]).toEqual(ring?.at(-1))
  expect(contourLines(hill, along, across, 5)).toEqual([])
  expect(contourLines(hill.map(() => null), along, across, -1)).toEqual([])
})

it('puts the borders of cells halfway, in the middle of ratios where these are equal', () => {
  expect(edgesOf([1, 3, 5], false)).toEqual([1, 2, 4, 5])
  expect(edgesOf([1, 4, 16], true)).toEqual([1, 2, 8, 16])
})
