import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { client, unwrap, type ModelChange, type ModelFile, type ModelsSave, type Qualification } from './client'

/** The shelf, intake and the bench. */
const MODELS = ['models']
const KINDS = ['kinds']

export function useModels() {
  return useQuery({ queryKey: [...MODELS, 'list'], queryFn: () => unwrap(client.GET('/api/models')), staleTime: 0 })
}

export function useKinds() {
  return useQuery({ queryKey: KINDS, queryFn: () => unwrap(client.GET('/api/kinds')) })
}

const path = (id: string) => ({ params: { path: { model_id: id } } })

export function useModel(id: MaybeRefOrGetter<string | undefined>) {
  return useQuery({
    queryKey: computed(() => [...MODELS, 'detail', toValue(id)]),
    queryFn: () => unwrap(client.GET('/api/models/{model_id}', path(toValue(id) ?? ''))),
    enabled: computed(() => toValue(id) !== undefined),
  })
}

/** What the file and the bench say of a stored model's nodes. */
export function usePins(id: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => ['pins', toValue(id)]),
    queryFn: () => unwrap(client.GET('/api/models/{model_id}/pins', path(toValue(id)))),
  })
}

export function useDifference(id: MaybeRefOrGetter<string>, since: MaybeRefOrGetter<string | null>) {
  return useQuery({
    queryKey: computed(() => [...MODELS, 'difference', toValue(id), toValue(since)]),
    queryFn: () =>
      unwrap(
        client.GET('/api/models/{model_id}/difference', {
          params: { path: { model_id: toValue(id) }, query: { since: toValue(since) ?? '' } },
        }),
      ),
    enabled: computed(() => toValue(since) !== null),
  })
}

/** What depends on models is out of date: the shelf itself, and everything that boards computed with them. */
function useOutOfDate() {
  const cache = useQueryClient()
  return () => {
    void cache.invalidateQueries({ queryKey: MODELS })
    void cache.invalidateQueries({ queryKey: ['derived'] })
  }
}

function formOf(files: readonly { name: string; data: Blob }[]) {
  const form = new FormData()
  for (const { name, data } of files) form.append('files', data, name)
  return form
}

export function useIntake() {
  const onSuccess = useOutOfDate()
  return {
    read: useMutation({
      mutationFn: (files: readonly { name: string; data: Blob }[]) =>
        unwrap(
          client.POST('/api/readings', {
            body: { files: [] },
            bodySerializer: () => formOf(files),
          }),
        ),
    }),
    fetch: useMutation({
      mutationFn: (slug: string) =>
        unwrap(client.POST('/api/catalogue/{slug}/reading', { params: { path: { slug } } })),
    }),
    store: useMutation({
      mutationFn: (save: ModelsSave) => unwrap(client.POST('/api/models', { body: save })),
      onSuccess,
    }),
  }
}

export function useCatalogue() {
  return useQuery({ queryKey: ['catalogue'], queryFn: () => unwrap(client.GET('/api/catalogue')), staleTime: 60_000 })
}

export interface Trial {
  files: ModelFile[]
  file: string
  name: string
  kind: string
  roles: string[]
}

/** What an assignment of roles does; asked for anew with every assignment that could be one. */
export function useTrial(trial: MaybeRefOrGetter<Trial | null>) {
  return useQuery({
    queryKey: computed(() => ['trial', toValue(trial)]),
    queryFn: ({ signal }) => unwrap(client.POST('/api/trials', { body: toValue(trial) as Trial, signal })),
    enabled: computed(() => toValue(trial) !== null),
  })
}

export function useChangeModel(id: MaybeRefOrGetter<string>) {
  const onSuccess = useOutOfDate()
  return useMutation({
    mutationFn: (change: ModelChange) =>
      unwrap(client.PATCH('/api/models/{model_id}', { ...path(toValue(id)), body: change })),
    onSuccess,
  })
}

export function useRemoveModel() {
  const onSuccess = useOutOfDate()
  return useMutation({
    mutationFn: async (id: string) => {
      const { error, response } = await client.DELETE('/api/models/{model_id}', path(id))
      if (error) await unwrap(Promise.resolve({ error, response }))
    },
    onSuccess,
  })
}

export const onTheBench = (view: Qualification | undefined) => view?.state === 'queued' || view?.state === 'running'

export function useQualification(id: MaybeRefOrGetter<string>) {
  const cache = useQueryClient()
  const queryKey = computed(() => [...MODELS, 'qualification', toValue(id)])
  const query = useQuery({
    queryKey,
    queryFn: async () => {
      const before = cache.getQueryData<Qualification>(queryKey.value)
      const view = await unwrap(client.GET('/api/models/{model_id}/qualification', path(toValue(id))))
      if (onTheBench(before) && !onTheBench(view)) {
        void cache.invalidateQueries({ queryKey: [...MODELS, 'list'] })
        void cache.invalidateQueries({ queryKey: [...MODELS, 'comparison'] })
        void cache.invalidateQueries({ queryKey: ['derived'] })
      }
      return view
    },
    refetchInterval: (current) => (onTheBench(current.state.data) ? 300 : false),
  })
  const onSuccess = (view: Qualification) => {
    cache.setQueryData(queryKey.value, view)
  }
  return {
    query,
    start: useMutation({
      mutationFn: () => unwrap(client.POST('/api/models/{model_id}/qualification', path(toValue(id)))),
      onSuccess,
    }),
    cancel: useMutation({
      mutationFn: () => unwrap(client.DELETE('/api/models/{model_id}/qualification', path(toValue(id)))),
      onSuccess,
    }),
  }
}

export function useReadDataSheet() {
  return useMutation({
    mutationFn: (pasted: { kind: string; csv: string }) => unwrap(client.POST('/api/data-sheets', { body: pasted })),
  })
}

export function useComparison(models: MaybeRefOrGetter<readonly string[]>) {
  return useQuery({
    queryKey: computed(() => [...MODELS, 'comparison', ...toValue(models)]),
    queryFn: () =>
      unwrap(client.GET('/api/comparisons', { params: { query: { model: [...toValue(models)] } } })),
    enabled: computed(() => toValue(models).length > 0),
  })
}

/** What can be placed without a maker's model. */
export function useParts() {
  return useQuery({ queryKey: ['parts'], queryFn: () => unwrap(client.GET('/api/parts')) })
}

/** The preferred value nearest to a wanted one. */
export function usePreferred(wanted: MaybeRefOrGetter<string>, series: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => ['parts', 'preferred', toValue(wanted), toValue(series)]),
    queryFn: () =>
      unwrap(client.GET('/api/parts/preferred', { params: { query: { wanted: toValue(wanted), series: toValue(series) } } })),
    enabled: computed(() => toValue(wanted).trim() !== ''),
  })
}
