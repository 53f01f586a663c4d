import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { client, unwrap, type Board, type Check, type Choice, type Study, type BoardView, type PastedView, type StageComputed } from './client'

/** What a typed line can mean; asked for with every letter. */
export function useTyped(text: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => ['models', 'typed', toValue(text).trim()]),
    queryFn: ({ signal }): Promise<readonly Choice[]> => unwrap(client.GET('/api/typed', { params: { query: { text: toValue(text).trim() } }, signal })) as Promise<unknown> as Promise<Choice[]>,
    enabled: computed(() => toValue(text).trim() !== ''),
    placeholderData: keepPreviousData,
    retry: false,
  })
}

export const fetchTyped = (text: string) => unwrap(client.GET('/api/typed', { params: { query: { text } } })) as Promise<unknown> as Promise<Choice[]>

export function useStages() {
  return useQuery({ queryKey: ['stages'], queryFn: () => unwrap(client.GET('/api/stages')), staleTime: Infinity })
}

/** A stage's values for goals as they are typed. */
export function useStage(key: MaybeRefOrGetter<string>, goals: MaybeRefOrGetter<Record<string, string>>, opAmp: MaybeRefOrGetter<string | null>) {
  return useQuery({
    queryKey: computed(() => ['models', 'stage', toValue(key), toValue(goals), toValue(opAmp)]),
    queryFn: ({ signal }) =>
      unwrap(
        client.POST('/api/stages/{key}', {
          params: { path: { key: toValue(key) } }, body: { goals: toValue(goals), op_amp: toValue(opAmp) }, signal,
        }),
      ) as Promise<unknown> as Promise<StageComputed>,
    placeholderData: keepPreviousData,
    retry: false,
  })
}

/** The board with other values of a check's quantities; nothing is stored. */
export function fetchTurned(board: Board, check: string, values: Record<string, string>): Promise<Board> {
  return unwrap(client.POST('/api/turned', { body: { board: board as never, check, values } })) as Promise<unknown> as Promise<Board>
}

/** The board with a part, or a fixture of a check, called otherwise wherever something speaks of it; nothing is stored. */
export function fetchRenamed(board: Board, part: string, name: string, check?: string): Promise<Board> {
  return unwrap(client.POST('/api/renamed', { body: { board: board as never, part, name, check: check ?? null } })) as Promise<unknown> as Promise<Board>
}

export function usePaste(board: MaybeRefOrGetter<string>) {
  const cache = useQueryClient()
  return useMutation({
    mutationFn: (pasted: { title: string | null; text: string }) =>
      unwrap(
        client.POST('/api/boards/{board_id}/pasted', {
          params: { path: { board_id: toValue(board) } }, body: { ...pasted, more: {} },
        }),
      ) as Promise<unknown> as Promise<PastedView>,
    // It may have brought models along.
    onSuccess: () => cache.invalidateQueries({ queryKey: ['models'] }),
  })
}

/** The electrical review of a circuit, with one check's fixture around it. */
export function useReview(board: MaybeRefOrGetter<string>, circuit: MaybeRefOrGetter<string | undefined>, check: MaybeRefOrGetter<string | undefined>) {
  return useQuery({
    queryKey: computed(() => ['derived', toValue(board), 'review', toValue(circuit), toValue(check)]),
    queryFn: ({ signal }) =>
      unwrap(
        client.GET('/api/boards/{board_id}/circuits/{circuit_id}/review', {
          params: { path: { board_id: toValue(board), circuit_id: toValue(circuit) ?? '' }, query: { check: toValue(check) ?? null } }, signal,
        }),
      ),
    enabled: computed(() => toValue(circuit) !== undefined),
    placeholderData: keepPreviousData,
  })
}

export function useRevisions(board: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => ['derived', toValue(board), 'revisions']),
    queryFn: () => unwrap(client.GET('/api/boards/{board_id}/revisions', { params: { path: { board_id: toValue(board) } } })),
  })
}

/** A board as it once was. */
export async function fetchRevision(board: string, revision: number): Promise<Board> {
  const request = client.GET('/api/boards/{board_id}/revisions/{revision}', { params: { path: { board_id: board, revision } } })
  return ((await unwrap(request)) as unknown as BoardView).board
}

/** A circuit as a netlist; without a check, the board only. */
export function fetchNetlist(board: string, circuit: string, check?: string): Promise<string> {
  return unwrap(
    client.GET('/api/boards/{board_id}/circuits/{circuit_id}/netlist', {
      params: { path: { board_id: board, circuit_id: circuit }, query: { check: check ?? null } }, parseAs: 'text',
    }),
  ) as Promise<unknown> as Promise<string>
}

export function useRemoveBoard() {
  const cache = useQueryClient()
  return useMutation({
    mutationFn: async (id: string) => {
      const { error, response } = await client.DELETE('/api/boards/{board_id}', { params: { path: { board_id: id } } })
      if (error) await unwrap(Promise.resolve({ error, response }))
    },
    onSuccess: () => cache.invalidateQueries({ queryKey: ['boards'] }),
  })
}

export function useCreateBoard() {
  const cache = useQueryClient()
  return useMutation({
    mutationFn: (board: { title: string; purpose: string }) =>
      unwrap(client.POST('/api/boards', { body: board })) as Promise<unknown> as Promise<BoardView>,
    onSuccess: () => cache.invalidateQueries({ queryKey: ['boards'] }),
  })
}

/** What a circuit can be asked as it stands, with the fixture of a check around it. */
export function useQuestions(board: MaybeRefOrGetter<string>, circuit: MaybeRefOrGetter<string | undefined>, check: MaybeRefOrGetter<string | undefined>) {
  return useQuery({
    queryKey: computed(() => ['derived', toValue(board), 'questions', toValue(circuit), toValue(check)]),
    queryFn: ({ signal }) =>
      unwrap(
        client.GET('/api/boards/{board_id}/circuits/{circuit_id}/questions', {
          params: { path: { board_id: toValue(board), circuit_id: toValue(circuit) ?? '' }, query: { check: toValue(check) ?? null } }, signal,
        }),
      ),
    placeholderData: keepPreviousData,
    enabled: computed(() => toValue(circuit) !== undefined),
  })
}

/** A check of a kind with settings proposed for the circuit: new, with the fixture of another one, or in its place. */
export function fetchFreshCheck(board: Board, circuit: string, kind: string, check: string | undefined, instead = false, which = 0): Promise<Check> {
  const body = { board, circuit, kind, check: check ?? null, instead, which }
  return unwrap(client.POST('/api/fresh-check', { body: body as never })) as Promise<unknown> as Promise<Check>
}

/** A study of a kind with settings proposed for a check; nothing is saved. */
export function fetchFreshStudy(board: Board, kind: string, check: string): Promise<Study> {
  return unwrap(client.POST('/api/fresh-study', { body: { board, kind, check } as never })) as Promise<unknown> as Promise<Study>
}

/** What changed on a board since a revision, in words. */
export function useChanges(board: MaybeRefOrGetter<string>, revision: MaybeRefOrGetter<number | undefined>) {
  return useQuery({
    queryKey: computed(() => ['derived', toValue(board), 'changes', toValue(revision)]),
    queryFn: ({ signal }) => unwrap(client.GET('/api/boards/{board_id}/revisions/{revision}/changes', { params: { path: { board_id: toValue(board), revision: toValue(revision) ?? 0 } }, signal })),
    enabled: computed(() => toValue(revision) !== undefined),
  })
}

/** Opens the file of a board as a board of its own. */
export function useOpenBoardFile() {
  const cache = useQueryClient()
  return useMutation({
    mutationFn: (file: File) => {
      const body = new FormData()
      body.append('file', file)
      return unwrap(client.POST('/api/boards/file', { body: body as never, bodySerializer: (form: unknown) => form as FormData }))
    },
    // It may have brought models along.
    onSuccess: () => Promise.all([cache.invalidateQueries({ queryKey: ['boards'] }), cache.invalidateQueries({ queryKey: ['models'] })]),
  })
}
