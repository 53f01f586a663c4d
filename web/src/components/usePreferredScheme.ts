import { onScopeDispose, readonly, ref } from 'vue'

const dark = ref(false)

/** Whether the system asks for a dark page; follows when it changes. Charts redraw with it. */
export function usePreferredScheme() {
  const query = window.matchMedia('(prefers-color-scheme: dark)')
  const follow = () => {
    dark.value = query.matches
  }
  follow()
  query.addEventListener('change', follow)
  onScopeDispose(() => query.removeEventListener('change', follow))
  return readonly(dark)
}
