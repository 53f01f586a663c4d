import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { mirroredPose, posed, posedWay, same, simplified, STEP, turnedPose, WAYS, type Pose } from './geometry'

const whole = fc.integer({ min: -50, max: 50 }).map((k) => 10 * k)
const point = fc.record({ x: whole, y: whole })
const pose = fc.record({ x: whole, y: whole, turn: fc.constantFrom(0, 1, 2, 3), mirrored: fc.boolean() }) as fc.Arbitrary<Pose>

describe('poses', () => {
  it('turned four times, or mirrored twice, are as before', () => {
    fc.assert(
      fc.property(pose, point, (at, centre) => {
        expect([1, 2, 3, 4].reduce((now) => turnedPose(now, centre), at)).toEqual(at)
        expect(mirroredPose(mirroredPose(at, centre), centre)).toEqual(at)
      }),
    )
  })

  it('move every pin as the drawing around them is turned and mirrored', () => {
    fc.assert(
      fc.property(pose, point, point, (at, centre, pin) => {
        const before = posed(at, pin)
        const turned = posed(turnedPose(at, centre), pin)
        expect(turned).toEqual({ x: centre.x - (before.y - centre.y), y: centre.y + (before.x - centre.x) })
        const mirrored = posed(mirroredPose(at, centre), pin)
        expect(mirrored).toEqual({ x: 2 * centre.x - before.x, y: before.y })
      }),
    )
  })

  it('turn the way a pin looks along with it', () => {
    fc.assert(
      fc.property(pose, fc.constantFrom(...WAYS), (at, way) => {
        const [from, to] = [posed(at, { x: 0, y: 0 }), posed(at, STEP[way])]
        expect(STEP[posedWay(at, way)]).toEqual({ x: to.x - from.x, y: to.y - from.y })
      }),
    )
  })
})

it('a polyline is simplified without changing where it goes', () => {
  const way = [{ x: 0, y: 0 }, { x: 0, y: 0 }, { x: 20, y: 0 }, { x: 50, y: 0 }, { x: 50, y: 30 }, { x: 50, y: 10 }]
  const short = simplified(way)
  expect(short[0]).toEqual(way[0])
  expect(same(short.at(-1) ?? { x: 1, y: 1 }, { x: 50, y: 10 })).toBe(true)
  expect(short.length).toBeLessThan(way.length)
})
