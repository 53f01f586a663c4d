import { expect, it } from 'vitest'
import { bare, shownAs, wrapper } from './shownAs'

it('takes a function off and puts another one on', () => {
  expect(shownAs('db(v(out)/v(in))', 'phase')).toBe('phase(v(out)/v(in))')
  expect(shownAs('v(out)', 'db')).toBe('db(v(out))')
  expect(shownAs('re(v(out))', '')).toBe('v(out)')
})

it('leaves alone what only looks wrapped', () => {
  expect(wrapper('db(v(a))+db(v(b))')).toBe('')
  expect(bare('db(v(a))-db(v(b))')).toBe('db(v(a))-db(v(b))')
})
