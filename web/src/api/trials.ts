import { keepPreviousData, useQueries, useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { client, unwrap, WINDOW, type Board, type CheckView, type CurveView, type FormulaView, type Measurement, type VariantEntry, type Source, type Vocabulary, type Waveform, type Finding } from './client'

export interface Asked {
  values?: Record<string, string>
  expressions?: readonly string[]
  points?: number
}

/** A check as it would be with some values turned, and with more of it shown; nothing is saved. */
export function fetchTrial(board: string, check: string, asked: Asked, signal?: AbortSignal): Promise<CheckView> {
  return unwrap(
    client.POST('/api/boards/{board_id}/checks/{check_id}/trial', {
      params: { path: { board_id: board, check_id: check } },
      body: { values: asked.values ?? {}, expressions: [...(asked.expressions ?? [])], points: asked.points ?? 1500, by: asked.values ? WINDOW : '' },
      ...(signal && { signal }),
    }),
  )
}

/** What a hand formula comes to beside a measurement, stored or not. */
export function fetchFormula(board: string, check: string, formula: string, measurement: Measurement): Promise<FormulaView> {
  return unwrap(client.POST('/api/boards/{board_id}/checks/{check_id}/formula', { params: { path: { board_id: board, check_id: check } }, body: { formula, measurement } }))
}

/** What a check can be compared with: other parts in places, and kept states of the board. */
export function useVariants(board: MaybeRefOrGetter<string>, check: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => ['derived', toValue(board), 'variants', toValue(check)]),
    queryFn: ({ signal }) => unwrap(client.GET('/api/boards/{board_id}/checks/{check_id}/variants', { params: { path: { board_id: toValue(board), check_id: toValue(check) } }, signal })),
    placeholderData: keepPreviousData,
  })
}

/** Every one of some checks on each of the variants, as long as the board is what it was. */
export function useCompared(board: MaybeRefOrGetter<string>, checks: MaybeRefOrGetter<readonly string[]>, variants: MaybeRefOrGetter<readonly VariantEntry['variant'][]>) {
  return useQueries({
    queries: computed(() =>
      toValue(checks).map((check) => ({
        queryKey: ['derived', toValue(board), 'compared', check, toValue(variants)],
        queryFn: ({ signal }: { signal: AbortSignal }) =>
          unwrap(client.POST('/api/boards/{board_id}/checks/{check_id}/compared', { params: { path: { board_id: toValue(board), check_id: check } }, body: { variants: [...toValue(variants)] }, signal })),
        enabled: toValue(variants).length > 0,
        placeholderData: keepPreviousData,
      })),
    ),
  })
}

/** Checks as drawn, each by its place among them. */
export function useDrawn(board: MaybeRefOrGetter<string>, checks: MaybeRefOrGetter<readonly string[]>) {
  return useQueries({
    queries: computed(() =>
      toValue(checks).map((check) => ({
        queryKey: ['derived', toValue(board), 'trial', check, {}],
        queryFn: ({ signal }: { signal: AbortSignal }) => fetchTrial(toValue(board), check, {}, signal),
        placeholderData: keepPreviousData,
      })),
    ),
  })
}

/** The board with a variant in it. */
export function fetchTaken(boardId: string, board: Board, check: string, variant: VariantEntry['variant']): Promise<Board> {
  return unwrap(
    client.POST('/api/boards/{board_id}/checks/{check_id}/taken', { params: { path: { board_id: boardId, check_id: check } }, body: { board: board as never, variant } }),
  ) as Promise<unknown> as Promise<Board>
}

/** A check with expressions of one's own, kept as long as the board is what it was. */
export function useTrial(board: MaybeRefOrGetter<string>, check: MaybeRefOrGetter<string | undefined>, asked: MaybeRefOrGetter<Asked | null>) {
  return useQuery({
    queryKey: computed(() => ['derived', toValue(board), 'trial', toValue(check), toValue(asked)]),
    queryFn: ({ signal }) => fetchTrial(toValue(board), toValue(check) ?? '', toValue(asked) ?? {}, signal),
    enabled: computed(() => toValue(check) !== undefined && toValue(asked) !== null),
    placeholderData: keepPreviousData,
    gcTime: 30_000,
  })
}

export function useQuantities(board: MaybeRefOrGetter<string>, check: MaybeRefOrGetter<string | undefined>, enabled: MaybeRefOrGetter<boolean>) {
  return useQuery({
    queryKey: computed(() => ['derived', toValue(board), 'quantities', toValue(check)]),
    queryFn: ({ signal }) =>
      unwrap(client.GET('/api/boards/{board_id}/checks/{check_id}/quantities', { params: { path: { board_id: toValue(board), check_id: toValue(check) ?? '' } }, signal })),
    enabled: computed(() => toValue(check) !== undefined && toValue(enabled)),
    placeholderData: keepPreviousData,
  })
}

/** What of fixtures and models can have a spread. */
export function useVariable(board: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => ['derived', toValue(board), 'variable']),
    queryFn: ({ signal }) => unwrap(client.GET('/api/boards/{board_id}/variable', { params: { path: { board_id: toValue(board) } }, signal })),
    placeholderData: keepPreviousData,
  })
}

export function useVocabulary() {
  const query = useQuery({ queryKey: ['vocabulary'], queryFn: () => unwrap(client.GET('/api/vocabulary')), staleTime: Infinity })
  // Unwrapping forgets how many corners a pair has.
  return { ...query, data: computed(() => query.data.value as unknown as Vocabulary | undefined) }
}

/** What a source does in time. */
export function useCurvesOf(source: MaybeRefOrGetter<Source | undefined>) {
  return useQuery({
    queryKey: computed(() => ['waveform', toValue(source)]),
    queryFn: async ({ signal }): Promise<CurveView> => unwrap(client.POST('/api/waveform', { body: toValue(source) as Source, signal })),
    enabled: computed(() => Boolean(toValue(source)?.waveform)),
    placeholderData: keepPreviousData,
    retry: false,
  })
}

/** Reads a file as a recorded waveform. */
export async function takeRecording(file: File): Promise<{ waveform: Waveform; findings: Finding[] }> {
  const body = new FormData()
  body.append('file', file)
  return unwrap(client.POST('/api/recordings', { body: body as never, bodySerializer: (form: unknown) => form as FormData }))
}

/** The check with a measured file over it, and what was done to the file. */
export function takeMeasured(board: string, check: string, file: File) {
  const body = new FormData()
  body.append('file', file)
  return unwrap(client.POST('/api/boards/{board_id}/checks/{check_id}/overlays', { params: { path: { board_id: board, check_id: check } }, body: body as never, bodySerializer: (form: unknown) => form as FormData }))
}

/** The same with what the virtual analyser shows. */
export const measureWith = (board: string, check: string, noise: number, length: number) => unwrap(client.POST('/api/boards/{board_id}/checks/{check_id}/analyser', { params: { path: { board_id: board, check_id: check } }, body: { noise, length } }))

/** The check without what was measured under a name. */
export const fetchWithout = (board: string, check: string, name: string) => unwrap(client.GET('/api/boards/{board_id}/checks/{check_id}/overlays/{name}/without', { params: { path: { board_id: board, check_id: check, name } } }))

/** Reads a list of parts as changes of a board. */
export async function takePartsList(board: string, file: File) {
  const body = new FormData()
  body.append('file', file)
  return unwrap(client.POST('/api/boards/{board_id}/parts-list', { params: { path: { board_id: board } }, body: body as never, bodySerializer: (form: unknown) => form as FormData }))
}

/** What a typed quantity is: the service reads it, as it reads all others. */
export function fetchNumber(text: string, unit: string): Promise<number> {
  return unwrap(client.GET('/api/number', { params: { query: { text, unit } } }))
}

/** How much of a run is done, from 0 to 1, and how many wait before it. */
export interface Progress {
  done: number
  ahead: number
}

/** How far this window's run is; null where none is under way. */
export async function fetchProgress(board: string, check: string): Promise<Progress | null> {
  const path = { board_id: board, check_id: check }
  const { done, ahead = 0 } = await unwrap(client.GET('/api/boards/{board_id}/checks/{check_id}/progress', { params: { path, query: { by: WINDOW } } }))
  return done === null ? null : { done, ahead }
}

export async function stopRun(board: string, check: string): Promise<void> {
  await client.DELETE('/api/boards/{board_id}/checks/{check_id}/progress', { params: { path: { board_id: board, check_id: check }, query: { by: WINDOW } } })
}
