import { RequestProblem, type Board } from '@/api/client'
import { useBoard, useSaveBoard } from '@/api/queries'
import { computed, ref, toValue, watchEffect, type MaybeRefOrGetter } from 'vue'
import { useHistory } from './history'

/** A board that is open for editing: every edit is saved at once, and can be undone. */
export function useEditing(id: MaybeRefOrGetter<string>) {
  const query = useBoard(id)
  const save = useSaveBoard(id)
  const history = useHistory()
  const conflict = ref('')
  watchEffect(() => history.open(toValue(id)))

  const board = computed(() => query.data.value?.board)

  // Saves go one after the other: two at once from one window would look like two windows.
  let last: Promise<unknown> = Promise.resolve()
  function inTurn(save: () => Promise<void>): Promise<void> {
    const mine = last.then(save)
    last = mine.catch(() => undefined)
    return mine
  }

  async function put(next: Board) {
    const present = query.data.value
    if (!present) return
    try {
      await save.mutateAsync({ revision: present.revision, board: next })
      conflict.value = ''
    } catch (error) {
      if (error instanceof RequestProblem && error.status === 409) conflict.value = error.message
      throw error
    }
  }

  /** Save what `change` makes of the board. Rejects with a RequestProblem; the board is then as it was. */
  const edit = (change: (board: Board) => Board) =>
    inTurn(async () => {
      const before = board.value
      if (!before) return
      const next = change(before)
      if (JSON.stringify(next) === JSON.stringify(before)) return
      await put(next)
      history.note(before)
    })

  const move = (direction: 'undo' | 'redo') =>
    inTurn(async () => {
      const present = board.value
      const target = direction === 'undo' ? history.undoTarget : history.redoTarget
      if (!present || !target) return
      await put(target)
      history.moved(direction, present)
    })

  return {
    board,
    loading: query.isPending,
    error: query.error,
    saving: save.isPending,
    conflict,
    edit,
    undo: () => move('undo'),
    redo: () => move('redo'),
    canUndo: computed(() => history.undoTarget !== undefined),
    canRedo: computed(() => history.redoTarget !== undefined),
  }
}
