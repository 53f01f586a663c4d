import { RequestProblem, type Board } from '@/api/client'
import { useBoard, useSaveBoard } from '@/api/queries'
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, toValue, watch, watchEffect, type MaybeRefOrGetter } from 'vue'
import { useHistory } from './history'
import { Overlap, withChange } from './merge'

/** Milliseconds until edits are sent again that were not answered. */
const RETRY = 2000

export type Change = (board: Board) => Board

/** An edit that is shown already and not yet saved. */
interface Pending {
  change: Change
  what: string
  done: () => void
  failed: (error: unknown) => void
}

/**
 * A board that is open for editing. An edit shows at once and is saved behind it; several that wait go together. What
 * the service refuses is taken back with its reason; what another window has changed meanwhile is never overwritten
 * without being asked.
 */
export function useEditing(id: MaybeRefOrGetter<string>) {
  const query = useBoard(id)
  const save = useSaveBoard(id)
  const history = useHistory()
  const conflict = ref('')
  /** Why edits are not saved yet, while the service does not answer. */
  const trouble = ref('')
  const pending = shallowRef<readonly Pending[]>([])
  watchEffect(() => history.open(toValue(id)))

  /** The board as it is shown: what is saved, with the edits that wait. Edits may read what depends on the board. */
  const board = shallowRef<Board>()
  let saving = false
  function show() {
    const saved = query.data.value?.board
    board.value = saved && pending.value.reduce(tried, saved)
  }
  // While a save is under way, its answer is here before its edits are struck off: they would count twice.
  watch(query.data, () => saving || show(), { immediate: true, flush: 'sync' })

  async function flush() {
    if (saving || conflict.value) return
    saving = true
    try {
      for (let together = true; pending.value.length && !conflict.value; ) {
        const batch = together ? pending.value : pending.value.slice(0, 1)
        const outcome = await saved(batch)
        if (isAway(outcome)) {
          // Nothing is lost: what waits is sent again until it is answered.
          trouble.value = outcome.message
          setTimeout(() => void flush(), RETRY)
          return
        }
        trouble.value = ''
        // Of several edits, one is to blame: find out which.
        if (outcome instanceof RequestProblem && outcome.status === 422 && batch.length > 1) together = false
        else if (outcome) {
          if (conflict.value) return
          const [first] = batch
          pending.value = pending.value.slice(1)
          show()
          first?.failed(outcome)
        }
      }
    } finally {
      saving = false
      show()
    }
  }

  /** Save some of the waiting edits; the error where that was refused. */
  async function saved(batch: readonly Pending[]): Promise<unknown> {
    const present = query.data.value
    if (!present) return
    try {
      const next = batch.reduce((document, { change }) => change(document), present.board)
      if (JSON.stringify(next) !== JSON.stringify(present.board)) {
        await save.mutateAsync({ revision: present.revision, board: next, what: words(batch) })
      }
      pending.value = pending.value.slice(batch.length)
      show()
      for (const { done } of batch) done()
    } catch (error) {
      if (error instanceof RequestProblem && error.status === 409) conflict.value = error.message
      return error
    }
  }

  function queue(change: Change, what: string): Promise<void> {
    return new Promise<void>((done, failed) => {
      pending.value = [...pending.value, { change, what, done, failed }]
      show()
      void flush()
    })
  }

  /** Make an edit. Resolves when it is saved; rejects with a RequestProblem, and the board is then as it was. */
  async function edit(change: Change, what = 'changed') {
    const before = board.value
    if (!before) return
    // Throws here, before anything is shown, where the edit itself refuses.
    const after = change(before)
    if (after === before || JSON.stringify(after) === JSON.stringify(before)) return
    const step = { before, after, what }
    history.note(step)
    let first: Board | undefined = after
    try {
      await queue((base) => {
        // Computed once, as long as nothing came in between.
        const same = first !== undefined && base === before
        return same ? (first as Board) : change(base)
      }, what)
    } catch (error) {
      history.forget(step)
      throw error
    } finally {
      first = undefined
    }
  }

  async function move(direction: 'undo' | 'redo') {
    const present = board.value
    const step = direction === 'undo' ? history.undoTarget : history.redoTarget
    if (!present || !step) return
    // One's own edit is taken back, not what others have done since.
    const [from, to] = direction === 'undo' ? [step.after, step.before] : [step.before, step.after]
    const change = (base: Board) => withChange(base, from, to)
    try {
      change(present)
      history.moved(direction)
      await queue(change, `${direction === 'undo' ? 'undone' : 'done again'}: ${step.what}`)
    } catch (error) {
      history.forget(step)
      if (!(error instanceof Overlap)) throw error
      const done = direction === 'undo' ? 'undone' : 'done again'
      throw new Error(`“${step.what}” is not ${done}: ${error.where} was changed in another window since. Change it by hand.`, { cause: error })
    }
  }

  /** After a conflict: keep what the other window saved, or put the present state on top of it as a new revision. */
  async function resolve(mine: boolean) {
    const present = board.value
    const waiting = pending.value
    await query.refetch()
    pending.value = []
    conflict.value = ''
    show()
    for (const { done } of waiting) done()
    if (mine && present) await queue(() => present, 'put on top of another window’s change')
  }

  function warn(event: BeforeUnloadEvent) {
    if (pending.value.length) event.preventDefault()
  }
  onMounted(() => window.addEventListener('beforeunload', warn))
  onBeforeUnmount(() => window.removeEventListener('beforeunload', warn))

  return {
    board,
    revision: computed(() => query.data.value?.revision ?? 0),
    loading: query.isPending,
    error: query.error,
    saving: computed(() => pending.value.length > 0),
    conflict,
    trouble,
    resolve,
    edit,
    undo: () => move('undo'),
    redo: () => move('redo'),
    undoing: computed(() => history.undoTarget?.what ?? ''),
    redoing: computed(() => history.redoTarget?.what ?? ''),
    canUndo: computed(() => history.undoTarget !== undefined),
    canRedo: computed(() => history.redoTarget !== undefined),
  }
}

/** A board with an edit that waits; one that cannot be made any more is refused when its turn comes. */
function tried(board: Board, { change }: Pending): Board {
  try {
    return change(board)
  } catch {
    return board
  }
}

/** Whether the service, or its database, does not answer at all. */
function isAway(outcome: unknown): outcome is RequestProblem {
  return outcome instanceof RequestProblem && (outcome.status === 0 || outcome.status === 503)
}

/** What a batch of edits comes to, in one line. */
function words(batch: readonly Pending[]): string {
  const [first] = batch
  return batch.length > 1 ? `${first?.what ?? ''} and ${batch.length - 1} more` : (first?.what ?? '')
}
