import { bought } from '@/stores/spreads'
import type { Board, Choice } from '@/api/client'
import { describe, expect, it } from 'vitest'
import { fixturePath, withFixture, withFixtureChanged, withFixtureField, withoutFixture } from './fixing'
import { fragmentOf, partOf } from './placing'
import { CIRCUITS, circuit } from './testing'

const choice = (over: Partial<Choice>): Choice => ({ what: 'part', title: '', kind: '', letter: '', value: '', net: '', key: '', units: 1, text: '', ...over })
const stage = CIRCUITS['a non-inverting stage with decoupling'] ?? circuit([])
const board = { title: 'b', purpose: '', circuits: [stage, { ...circuit([]), id: 'empty' }], spreads: [], studies: [], limits: [] } as unknown as Board

describe('fixtures', () => {
  it('get a check of the operating point where there is none, and names that are free', () => {
    const empty = board.circuits[1] ?? stage
    const first = withFixture(board, empty, undefined, { kind: 'supply', name: 'supply', plus: '+5V', minus: 'gnd', volts: '5' })
    const [point] = first.circuits[1]?.checks ?? []
    expect(point).toMatchObject({ analysis: { kind: 'operating point' }, fixtures: [{ kind: 'supply', name: 'supply', plus: '+5V', volts: '5' }] })
    const second = withFixture(first, first.circuits[1] ?? stage, point?.id, { kind: 'supply', name: 'supply', plus: '-5V', minus: 'gnd', volts: '-5' })
    expect(second.circuits[1]?.checks[0]?.fixtures.map(({ name }) => name)).toEqual(['supply', 'supply-2'])
    expect(board.circuits[1]?.checks).toEqual([])
  })

  it('are changed and removed by name, and known by their place in the document', () => {
    const changed = withFixtureField(board, 'k', 'l.resistance', '2k2')
    expect(changed.circuits[0]?.checks[0]?.fixtures.find(({ name }) => name === 'l')).toMatchObject({ resistance: '2k2' })
    expect(fixturePath(board, 'c', 'k', 'l.resistance')).toBe('board.circuits.0.checks.0.fixtures.3.resistance')
    expect(withoutFixture(board, 'k', 'l').circuits[0]?.checks[0]?.fixtures.map(({ name }) => name)).toEqual(['s', 'p', 'n'])
  })

  it('are numbered where they are ports', () => {
    const port = { kind: 'port', name: 'port', plus: 'in', minus: 'gnd', number: 1, impedance: '50', reactance: '0' } as const
    const two = [1, 2].reduce((now) => withFixture(now, stage, 'k', port), board)
    const ports = two.circuits[0]?.checks[0]?.fixtures.flatMap((fixture) => (fixture.kind === 'port' ? [[fixture.name, fixture.number]] : []))
    expect(ports).toEqual([['port', 1], ['port-2', 2]])
  })

  it('are put into another form', () => {
    const source = stage.checks[0]?.fixtures.find(({ name }) => name === 's')
    if (source?.kind !== 'source') throw new Error('no source')
    const changed = withFixtureChanged(board, 'k', { ...source, dc: '2' })
    expect(changed.circuits[0]?.checks[0]?.fixtures.find(({ name }) => name === 's')).toMatchObject({ dc: '2' })
  })
})

describe('what was typed is held as', () => {
  it('a part with open pins and its spread', () => {
    const fragment = fragmentOf(choice({ kind: 'resistor', letter: 'R', value: '4k7', tolerance: 1 }))
    expect(fragment?.parts).toEqual([{ kind: 'resistor', designator: 'R1', value: '4k7', pins: ['', ''] }])
    expect(fragment?.spreads).toEqual([bought('R1', '1')])
    expect(Object.keys(fragment?.drawing.symbols ?? {})).toEqual(['R1'])
  })

  it('a package with its units and the supply pins once', () => {
    const pins = ['in+', 'in-', 'v+', 'v-', 'out'].map((role) => ({ role, label: role, side: 'left' as const }))
    const package_ = choice({ kind: 'modelled', letter: 'U', units: 2, model: { id: 'm', name: 'm' }, symbol: { shape: 'amplifier', pins } })
    expect(Object.keys((partOf(package_) as { pins: object }).pins)).toEqual(['A.in+', 'A.in-', 'A.out', 'B.in+', 'B.in-', 'B.out', 'v+', 'v-'])
    expect(Object.keys(fragmentOf(package_)?.drawing.symbols ?? {})).toEqual(['U1.A', 'U1.B'])
  })

  it('a mark, a negative rail upside down; nothing for what is not placed by hand', () => {
    expect(fragmentOf(choice({ what: 'rail', net: '-5V' }))?.drawing.marks[0]).toMatchObject({ kind: 'rail', net: '-5V', turn: 2 })
    expect(fragmentOf(choice({ what: 'ground', net: 'gnd' }))?.drawing.marks[0]).toMatchObject({ kind: 'ground', turn: 0 })
    expect(fragmentOf(choice({ what: 'note', text: 'words' }))?.drawing.notes[0]?.text).toBe('words')
    expect(fragmentOf(choice({ what: 'stage' }))).toBeNull()
  })
})
