import { useMutation, useQueries, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { client, RequestProblem, unwrap, WINDOW, type Board, type BoardView, type StudyView } from './client'

/** Keys of cached answers. Everything that depends on a board's contents lies under `derived`. */
const keys = {
  boards: ['boards'],
  board: (id: string) => ['board', id],
  derived: (id: string) => ['derived', id],
}

/** A board's answer; the client's types make arrays of the document's pairs. */
const boardView = (request: Parameters<typeof unwrap>[0]) => unwrap(request) as Promise<BoardView>

export function useBoards() {
  return useQuery({ queryKey: keys.boards, queryFn: () => unwrap(client.GET('/api/boards')), staleTime: 0 })
}

export function useBoard(id: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => keys.board(toValue(id))),
    queryFn: () => boardView(client.GET('/api/boards/{board_id}', { params: { path: { board_id: toValue(id) } } })),
    staleTime: 0,
    // A document is replaced, never changed: nothing in it needs watching.
    shallow: true,
  })
}

/** Saves a whole board. All that was derived from the old contents is out of date at once. */
export function useSaveBoard(id: MaybeRefOrGetter<string>) {
  const cache = useQueryClient()
  return useMutation({
    mutationFn: (save: { revision: number; board: Board; what: string }) =>
      boardView(client.PUT('/api/boards/{board_id}', { params: { path: { board_id: toValue(id) } }, body: save })),
    onSuccess: (saved: BoardView) => {
      cache.setQueryData(keys.board(toValue(id)), saved)
      return void cache.invalidateQueries({ queryKey: keys.derived(toValue(id)) })
    },
  })
}

export function useCheck(board: MaybeRefOrGetter<string>, check: MaybeRefOrGetter<string | undefined>) {
  return useQuery({
    queryKey: computed(() => [...keys.derived(toValue(board)), 'check', toValue(check)]),
    queryFn: ({ signal }) =>
      unwrap(
        client.GET('/api/boards/{board_id}/checks/{check_id}', {
          params: { path: { board_id: toValue(board), check_id: toValue(check) ?? '' }, query: { by: WINDOW } },
          signal,
        }),
      ),
    enabled: computed(() => toValue(check) !== undefined),
    // Overtaken by a later run of this window: its answer is asked for instead.
    retry: (count, error) => count < 3 && error instanceof RequestProblem && error.status === 409,
    retryDelay: 100,
  })
}

const ACTIVE = ['queued', 'running']

/** Whether a study's run is queued or under way. */
export function isActive(view: StudyView | undefined): boolean {
  return ACTIVE.includes(view?.run?.state ?? '')
}

/** How a study with its run is asked for: again and again while the run is under way. */
function studyQuery(cache: ReturnType<typeof useQueryClient>, board: string, study: string) {
  return {
    queryKey: [...keys.derived(board), 'study', study],
    queryFn: async () => {
      const view = await unwrap(client.GET('/api/boards/{board_id}/studies/{study_id}', { params: { path: { board_id: board, study_id: study } } }))
      if (view.run?.state === 'done') void cache.invalidateQueries({ queryKey: [...keys.derived(board), 'verdict'] })
      return view
    },
    refetchInterval: (query: { state: { data?: StudyView | undefined } }) => (isActive(query.state.data) ? 300 : false) as number | false,
  }
}

/** A study with its run; asked for again while the run is under way. */
export function useStudy(board: MaybeRefOrGetter<string>, study: MaybeRefOrGetter<string | undefined>) {
  const cache = useQueryClient()
  return useQuery(computed(() => ({ ...studyQuery(cache, toValue(board), toValue(study) ?? ''), enabled: toValue(study) !== undefined })))
}

/** Several studies with their runs, and how to start all of them. */
export function useRuns(board: MaybeRefOrGetter<string>, studies: MaybeRefOrGetter<readonly string[]>) {
  const cache = useQueryClient()
  const views = useQueries({ queries: computed(() => toValue(studies).map((study) => studyQuery(cache, toValue(board), study))) })
  const start = useMutation({
    mutationFn: async (started: readonly string[]) => {
      for (const study of started) {
        const view = await unwrap(client.POST('/api/boards/{board_id}/studies/{study_id}/runs', { params: { path: { board_id: toValue(board), study_id: study } } }))
        cache.setQueryData([...keys.derived(toValue(board)), 'study', study], view)
      }
    },
  })
  return { views, start }
}

export function useRunControl(board: MaybeRefOrGetter<string>, study: MaybeRefOrGetter<string>) {
  const cache = useQueryClient()
  const path = () => ({ params: { path: { board_id: toValue(board), study_id: toValue(study) } } })
  const onSuccess = async (view: StudyView) => {
    const queryKey = [...keys.derived(toValue(board)), 'study', toValue(study)]
    // An answer that is still on its way was given before this one: it must not overwrite it.
    await cache.cancelQueries({ queryKey })
    cache.setQueryData(queryKey, view)
    return void cache.invalidateQueries({ queryKey: [...keys.derived(toValue(board)), 'verdict'] })
  }
  return {
    start: useMutation({
      mutationFn: () => unwrap(client.POST('/api/boards/{board_id}/studies/{study_id}/runs', path())),
      onSuccess,
    }),
    cancel: useMutation({
      mutationFn: () => unwrap(client.POST('/api/boards/{board_id}/studies/{study_id}/cancel', path())),
      onSuccess,
    }),
  }
}

export function useVerdict(board: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => [...keys.derived(toValue(board)), 'verdict']),
    queryFn: () =>
      unwrap(client.GET('/api/boards/{board_id}/verdict', { params: { path: { board_id: toValue(board) } } })),
  })
}

/** What parts bear in all checks of the board, as a part of what their ratings allow. */
export function useStress(board: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => [...keys.derived(toValue(board)), 'stress']),
    queryFn: ({ signal }) => unwrap(client.GET('/api/boards/{board_id}/stress', { params: { path: { board_id: toValue(board) } }, signal })),
  })
}

/** Watts that parts take in a check, on average over a run in time. */
export function useWatts(board: MaybeRefOrGetter<string>, check: MaybeRefOrGetter<string | undefined>, enabled: MaybeRefOrGetter<boolean>) {
  return useQuery({
    queryKey: computed(() => [...keys.derived(toValue(board)), 'watts', toValue(check)]),
    queryFn: ({ signal }) => unwrap(client.GET('/api/boards/{board_id}/checks/{check_id}/watts', { params: { path: { board_id: toValue(board), check_id: toValue(check) ?? '' } }, signal })),
    enabled: computed(() => toValue(check) !== undefined && toValue(enabled)),
    // A check without volts and amperes at an instant has none.
    retry: false,
  })
}
