import { expect, it } from 'vitest'
import { matching } from './commands'

const commands = ['Trim R1', 'Trim the temperature', 'Add: Transient', 'Print'].map((title) => ({ title, group: title.startsWith('Trim') ? 'Trim' : 'Check', run: () => undefined }))

it('finds by any part of a name, what begins so first', () => {
  expect(matching(commands, 'tr').map(({ title }) => title)).toEqual(['Trim R1', 'Trim the temperature', 'Add: Transient'])
  expect(matching(commands, 'check tran').map(({ title }) => title)).toEqual(['Add: Transient'])
  expect(matching(commands, '')).toHaveLength(4)
  expect(matching(commands, 'nothing')).toEqual([])
})
