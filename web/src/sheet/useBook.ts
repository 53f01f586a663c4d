import { useModels, useParts } from '@/api/models'
import { computed } from 'vue'
import type { SymbolBook } from './symbols'

/** The symbols of all models on the shelf and of all generic parts; undefined until both are known. */
export function useBook() {
  const models = useModels()
  const parts = useParts()
  return computed<SymbolBook | undefined>(() => {
    if (!models.data.value || !parts.data.value) return undefined
    const byId = new Map(models.data.value.map((model) => [model.id, model]))
    const generic = new Map(parts.data.value.generic.map((part) => [part.key, part.symbol]))
    return {
      model: (id) => byId.get(id)?.symbol,
      generic: (key) => generic.get(key),
    }
  })
}
