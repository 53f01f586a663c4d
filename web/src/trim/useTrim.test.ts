import type { CheckView } from '@/api/client'
import { fetchTrial } from '@/api/trials'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import { useTrim } from './useTrim'

vi.mock('@/api/trials', () => ({ fetchTrial: vi.fn() }))
const asked = vi.mocked(fetchTrial)
beforeEach(() => vi.useFakeTimers())
afterEach(() => {
  asked.mockReset()
  vi.useRealTimers()
})

/** A service whose answers are given by hand; an answer's key says which values it is of. */
function byHand() {
  const open: { values: Record<string, string>; answer: () => void; signal: AbortSignal | undefined }[] = []
  asked.mockImplementation((_, __, { values }, signal) => new Promise<CheckView>((done, failed) => {
    signal?.addEventListener('abort', () => failed(new Error('aborted')))
    open.push({ values: values ?? {}, answer: () => done({ key: JSON.stringify(values) } as CheckView), signal })
  }))
  return open
}
const settle = () => vi.advanceTimersByTimeAsync(0)

it('asks for the newest values only, while one answer is on its way', async () => {
  const open = byHand()
  const trim = useTrim('b', ref('k'))
  for (const text of ['1k', '2k', '3k', '4k']) trim.turn('R1', text)
  expect(open.map(({ values }) => values['R1'])).toEqual(['1k'])
  open[0]?.answer()
  await settle()
  expect(open.map(({ values }) => values['R1'])).toEqual(['1k', '4k'])
  open[1]?.answer()
  await settle()
  expect(trim.result.value?.key).toBe('{"R1":"4k"}')
  expect(trim.answeredFor.value).toEqual({ R1: '4k' })
  expect(trim.busy.value).toBe(false)
})

it('overtakes a run that takes long', async () => {
  const open = byHand()
  const trim = useTrim('b', ref('k'))
  trim.turn('R1', '1k')
  trim.turn('R1', '2k')
  await vi.advanceTimersByTimeAsync(300)
  expect(open[0]?.signal?.aborted).toBe(true)
  expect(open[1]?.values).toEqual({ R1: '2k' })
  open[1]?.answer()
  await settle()
  expect(trim.trouble.value).toBe('')
})

it('overtakes no run of the newest values, however long it takes', async () => {
  const open = byHand()
  const trim = useTrim('b', ref('k'))
  for (const text of ['1k', '2k', '3k']) trim.turn('R1', text)
  open[0]?.answer()
  await vi.advanceTimersByTimeAsync(1000)
  expect(open[1]?.values).toEqual({ R1: '3k' })
  expect(open[1]?.signal?.aborted).toBe(false)
  open[1]?.answer()
  await settle()
  expect(trim.answeredFor.value).toEqual({ R1: '3k' })
})

it('says what is wrong with the newest values, and forgets everything when it returns', async () => {
  asked.mockRejectedValueOnce(new Error('it must be above zero'))
  const trim = useTrim('b', ref('k'))
  trim.turn('R1', '-1')
  await settle()
  expect(trim.trouble.value).toBe('it must be above zero')
  trim.clear()
  expect([trim.active.value, trim.result.value, trim.trouble.value]).toEqual([false, undefined, ''])
})

it('an answer that comes after the return is nobody’s', async () => {
  const open = byHand()
  const trim = useTrim('b', ref('k'))
  trim.turn('R1', '1k')
  trim.clear()
  open[0]?.answer()
  await settle()
  expect(trim.result.value).toBeUndefined()
})
