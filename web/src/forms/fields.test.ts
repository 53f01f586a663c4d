import { expect, it } from 'vitest'
import { fieldsOf, valueOf } from './fields'

const schema = {
  properties: {
    kind: { const: 'k', type: 'string' },
    start: { anyOf: [{ type: 'string' }, { type: 'null' }], title: 'Start', unit: 'Hz', empty: 'from the poles' },
    points: { type: 'integer', title: 'Points', minimum: 2, maximum: 9 },
    back: { type: 'boolean', title: 'and back again' },
    begin: { enum: ['cold', 'warm'], titles: { cold: 'Cold' }, type: 'string', title: 'Begins' },
    output: { type: 'string', title: 'To net', chooses: 'net' },
    checks: { type: 'array', items: { type: 'string' }, title: 'Checks', chooses: 'check' },
  },
}

it('makes a field with the right control of every property, what is chosen first, ticks last', () => {
  const fields = fieldsOf(schema)
  expect(fields.map(({ name, control }) => [name, control])).toEqual([
    ['output', 'pick'], ['checks', 'many'], ['start', 'text'], ['points', 'whole'], ['begin', 'pick'], ['back', 'tick'],
  ])
  expect(fields[4]?.words).toEqual([{ value: 'cold', title: 'Cold' }, { value: 'warm', title: 'warm' }])
})

it('reads what was typed, and says what is wrong with it', () => {
  const [, , start, points] = fieldsOf(schema)
  if (!start || !points) throw new Error('no fields')
  expect(valueOf(start, ' 10k ')).toBe('10k')
  expect(valueOf(start, '')).toBeNull()
  expect(valueOf(points, '5')).toBe(5)
  expect(() => valueOf(points, 'many')).toThrow("'many' is no whole number. Write one from 2 to 9.")
  expect(() => valueOf(points, '10')).toThrow('Points is a number from 2 to 9.')
})
