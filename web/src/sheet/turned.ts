import { inject, provide, shallowReactive, watch, type InjectionKey, type Ref } from 'vue'

/** Values that are being turned, by name: they stand on the sheet in the place of the stored ones. */
type Turned = Readonly<Record<string, string>>
const KEY: InjectionKey<Turned> = Symbol('turned')

/** A symbol depends on its own values only: turning one draws one anew. */
export function provideTurned(values: Ref<Turned>) {
  const known = shallowReactive<Record<string, string>>({})
  watch(values, (now) => {
    for (const name of Object.keys(known)) if (!(name in now)) Reflect.deleteProperty(known, name)
    Object.assign(known, now)
  })
  provide(KEY, known)
}
export const useTurned = () => inject<Turned>(KEY, () => ({}), true)
