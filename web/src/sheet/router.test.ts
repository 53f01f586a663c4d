import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { boxOf, crosses, piecesOf, same, type Box, type Point } from './geometry'
import { elbow, RoutingGrid } from './router'

const area: Box = { left: 0, top: 0, right: 400, bottom: 300 }
const lengthOf = (points: readonly Point[]) => piecesOf(points).reduce((sum, [a, b]) => sum + Math.abs(a.x - b.x) + Math.abs(a.y - b.y), 0)

describe('a wire', () => {
  it('goes straight where nothing is in the way, and has one bend around a corner', () => {
    const grid = new RoutingGrid(area)
    expect(grid.route({ x: 0, y: 0 }, [{ x: 100, y: 0 }])).toEqual([{ x: 0, y: 0 }, { x: 100, y: 0 }])
    expect(grid.route({ x: 0, y: 0 }, [{ x: 100, y: 50 }], ['east'])).toEqual([{ x: 0, y: 0 }, { x: 100, y: 0 }, { x: 100, y: 50 }])
  })

  it('goes around a body, and ends at the nearer of two goals', () => {
    const grid = new RoutingGrid(area)
    const body = { left: 40, top: -50, right: 60, bottom: 50 }
    grid.addBody(body)
    const way = grid.route({ x: 0, y: 0 }, [{ x: 100, y: 0 }]) ?? []
    expect(piecesOf(way).some(([a, b]) => crosses(a, b, body))).toBe(false)
    expect(lengthOf(way)).toBe(100 + 2 * 60)
    expect(grid.route({ x: 0, y: 0 }, [{ x: 100, y: 0 }, { x: 0, y: 80 }])?.at(-1)).toEqual({ x: 0, y: 80 })
  })

  it('crosses another one at a right angle, never along it or at its bend', () => {
    const grid = new RoutingGrid(area)
    const other = [{ x: 50, y: -100 }, { x: 50, y: 100 }, { x: 200, y: 100 }]
    grid.addWire(other)
    expect(grid.route({ x: 0, y: 0 }, [{ x: 100, y: 0 }])).toEqual([{ x: 0, y: 0 }, { x: 100, y: 0 }])
    const along = grid.route({ x: 50, y: -110 }, [{ x: 50, y: 110 }]) ?? []
    for (const [a, b] of piecesOf(along)) for (const corner of other) expect(same(a, corner) || same(b, corner)).toBe(false)
    expect(piecesOf(along).some(([a, b]) => a.x === 50 && b.x === 50 && Math.abs(a.y - b.y) > 10)).toBe(false)
  })

  it('has no way into a closed room', () => {
    const grid = new RoutingGrid(area)
    for (const box of [boxOf([{ x: 80, y: 80 }, { x: 120, y: 85 }]), boxOf([{ x: 80, y: 115 }, { x: 120, y: 120 }]), boxOf([{ x: 80, y: 80 }, { x: 85, y: 120 }]), boxOf([{ x: 115, y: 80 }, { x: 120, y: 120 }])]) grid.addBody(box)
    expect(grid.route({ x: 0, y: 0 }, [{ x: 100, y: 100 }])).toBeNull()
  })

  it('is as short as a search without bends and bodies says, give or take its bends', () => {
    const place = fc.record({ x: fc.integer({ min: 0, max: 40 }).map((k) => 10 * k), y: fc.integer({ min: 0, max: 30 }).map((k) => 10 * k) })
    fc.assert(
      fc.property(place, place, (a, b) => {
        const way = new RoutingGrid(area).route(a, [b]) ?? []
        expect([way[0], way.at(-1)]).toEqual([a, b])
        expect(lengthOf(way)).toBe(Math.abs(a.x - b.x) + Math.abs(a.y - b.y))
        expect(way.length).toBeLessThanOrEqual(3)
        expect(lengthOf(elbow(a, b, true))).toBe(lengthOf(way))
      }),
    )
  })
})
