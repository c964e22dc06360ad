/** Refusals beside the fields of one thing: another thing is never answered for it, also when the answer comes late. */
import { ref, watch } from 'vue'
import type { Workbench } from './workbench'

/** `of`: what the fields belong to now. `run` does an act for a field; what refuses it stands in `wrong` under the field's name. */
export function useRefusals(bench: Workbench, of: () => unknown) {
  const wrong = ref<Record<string, string>>({})
  watch(of, () => (wrong.value = {}))
  async function run<T>(field: string, act: () => Promise<T | null>): Promise<T | null> {
    const mine = of()
    wrong.value = {}
    const done = await act()
    if (!done && bench.failure.value && of() === mine) wrong.value = { [field]: bench.failure.value.message }
    return done
  }
  return { wrong, run }
}
