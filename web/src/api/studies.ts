import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { client, unwrap, type StudyColumn } from './client'

/** How rows are listed: by what, and which of them. */
export interface RowOrder {
  sort: string
  descending: boolean
  failing: boolean
}

/** Some rows of a study; `done` is how many are computed, so that more of them are asked for anew. */
export function useRows(board: MaybeRefOrGetter<string>, study: MaybeRefOrGetter<string>, query: MaybeRefOrGetter<RowOrder & { offset: number; limit: number }>, done: MaybeRefOrGetter<number>) {
  return useQuery({
    queryKey: computed(() => ['derived', toValue(board), 'rows', toValue(study), toValue(query), toValue(done)]),
    queryFn: ({ signal }) =>
      unwrap(client.GET('/api/boards/{board_id}/studies/{study_id}/rows', { params: { path: { board_id: toValue(board), study_id: toValue(study) }, query: toValue(query) }, signal })),
    placeholderData: keepPreviousData,
  })
}

/** One row by its number, of those that are computed one after the other. */
export async function fetchRow(board: string, study: string, row: number) {
  const found = await unwrap(client.GET('/api/boards/{board_id}/studies/{study_id}/rows', { params: { path: { board_id: board, study_id: study }, query: { offset: row, limit: 1 } } }))
  return found.rows.find((each) => each.row === row)
}

export const rowsAsCsv = (board: string, study: string) => `/api/boards/${board}/studies/${encodeURIComponent(study)}/rows.csv`

/** Which quantities the variation of a measurement comes from. */
export function useBlame(board: MaybeRefOrGetter<string>, study: MaybeRefOrGetter<string>, column: MaybeRefOrGetter<StudyColumn>, done: MaybeRefOrGetter<number>) {
  return useQuery({
    queryKey: computed(() => ['derived', toValue(board), 'blame', toValue(study), toValue(column).check, toValue(column).id, toValue(done)]),
    queryFn: ({ signal }) =>
      unwrap(
        client.GET('/api/boards/{board_id}/studies/{study_id}/blame', {
          params: { path: { board_id: toValue(board), study_id: toValue(study) }, query: { check: toValue(column).check, measurement: toValue(column).id } },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  })
}

/** A curve of a check as drawn and in the units of a study, the first that the check shows where none is named. */
export function useEnvelope(board: MaybeRefOrGetter<string>, study: MaybeRefOrGetter<string>, check: MaybeRefOrGetter<string>, of: MaybeRefOrGetter<string>, done: MaybeRefOrGetter<number>) {
  return useQuery({
    queryKey: computed(() => ['derived', toValue(board), 'envelope', toValue(study), toValue(check), toValue(of), toValue(done)]),
    queryFn: ({ signal }) =>
      unwrap(client.GET('/api/boards/{board_id}/studies/{study_id}/envelope', { params: { path: { board_id: toValue(board), study_id: toValue(study) }, query: { check: toValue(check), of: toValue(of) } }, signal })),
    placeholderData: keepPreviousData,
  })
}

/** What would help a study's yield, tried when it is asked for. */
export function useRemedies(board: MaybeRefOrGetter<string>, study: MaybeRefOrGetter<string>, done: MaybeRefOrGetter<number>) {
  return useQuery({
    queryKey: computed(() => ['derived', toValue(board), 'remedies', toValue(study), toValue(done)]),
    queryFn: ({ signal }) => unwrap(client.GET('/api/boards/{board_id}/studies/{study_id}/remedies', { params: { path: { board_id: toValue(board), study_id: toValue(study) } }, signal })),
  })
}

/** How much of the variation of what a check measures each part carries, as far as a study tells. */
export function usePartShares(board: MaybeRefOrGetter<string>, check: MaybeRefOrGetter<string | undefined>, enabled: MaybeRefOrGetter<boolean>) {
  return useQuery({
    queryKey: computed(() => ['derived', toValue(board), 'shares', toValue(check)]),
    queryFn: ({ signal }) => unwrap(client.GET('/api/boards/{board_id}/checks/{check_id}/shares', { params: { path: { board_id: toValue(board), check_id: toValue(check) ?? '' } }, signal })),
    enabled: computed(() => toValue(check) !== undefined && toValue(enabled)),
  })
}
