import type { CheckView } from '@/api/client'
import { fetchTrial } from '@/api/trials'
import { computed, ref, shallowRef, toValue, watch, type MaybeRefOrGetter } from 'vue'

/**
 * Values that are being turned. The latest ones win: while one answer is on its way only the newest values are asked
 * for next, and a run that takes long is overtaken.
 */
export function useTrim(board: MaybeRefOrGetter<string>, check: MaybeRefOrGetter<string | undefined>) {
  const values = ref<Record<string, string>>({})
  const result = shallowRef<CheckView>()
  /** The values that the result is of. */
  const answeredFor = ref<Record<string, string>>({})
  /** What all the values are of, where they came together. */
  const origin = ref('')
  const trouble = ref('')
  const busy = ref(false)
  const active = computed(() => Object.keys(values.value).length > 0)

  // Turns are counted: the newest, the one whose answer is on its way, the last whose answer came.
  let wanted = 0
  let asking = 0
  let answered = 0
  let abort: AbortController | null = null

  function turn(name: string, text: string) {
    values.value = { ...values.value, [name]: text }
    void ask()
  }

  async function ask() {
    const turned = (wanted += 1)
    if (busy.value) {
      // What takes longer than this is not waited for.
      setTimeout(() => turned === wanted && asking < wanted && abort?.abort(), LONG)
      return
    }
    busy.value = true
    try {
      while (answered < wanted && active.value) {
        asking = wanted
        abort = new AbortController()
        await answer(asking, abort.signal)
        answered = asking
      }
    } finally {
      busy.value = false
    }
  }

  async function answer(now: number, signal: AbortSignal) {
    try {
      const asked = values.value
      const found = await fetchTrial(toValue(board), toValue(check) ?? '', { values: asked }, signal)
      if (!active.value) return
      result.value = found
      answeredFor.value = asked
      trouble.value = ''
    } catch (error) {
      // An overtaken one says nothing.
      if (now === wanted && !signal.aborted) trouble.value = error instanceof Error ? error.message : String(error)
    }
  }

  /** Many at once, which are those of something with a name. */
  function turnAll(all: Record<string, string>, name: string) {
    values.value = all
    origin.value = name
    void ask()
  }

  /** Ask once more: what the values were turned on has changed. */
  function again() {
    if (active.value) void ask()
  }

  function clear() {
    values.value = answeredFor.value = {}
    result.value = undefined
    trouble.value = origin.value = ''
  }
  watch(() => toValue(check), clear)

  return { values, result, answeredFor, origin, trouble, busy, active, turn, turnAll, again, clear }
}

/** Milliseconds after which a run is overtaken. */
const LONG = 200

export type Trim = ReturnType<typeof useTrim>
