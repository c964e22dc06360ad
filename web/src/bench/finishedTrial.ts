/** The finished ground around junctions while they are dragged: asked for once the drag's own picture is there; the newest wins. */
import { useDebounceFn } from '@vueuse/core'
import { shallowRef, type Ref } from 'vue'
import { api, type Packed } from '@/api/client'
import type { Project } from '@/api/types'
import { newest } from '@/composables/newest'
import { units } from '@/lib/units'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'

const PAUSE = 70 // ms of rest after which it is asked for: while the pointer runs the handle has the machine for itself
const FINEST = 0.05 // of the interval of contours on what is built, in the project's units

/** m between contours of what is built: a quarter of the ground's. */
export function builtInterval(): number {
  return Math.max(useLook().contours.interval / 4, FINEST) * units.value.metre
}

export function useFinishedTrial(project: Ref<Project | null>) {
  const ui = useUi()
  const head = () => project.value?.ledger.head ?? ''
  /** with the state of the project that was dragged over, and when it came */
  const finishedNear = shallowRef<{ packed: Packed; head: string; at: number } | null>(null)
  const asks = newest<{ path: string; body: unknown; head: string }, Packed>(
    ({ path, body }, signal) => api.packed(`${path}/finished?interval=${builtInterval()}`, body, signal),
    (packed, asked) => (finishedNear.value = { packed, head: asked.head, at: Date.now() }),
    () => undefined, // why it cannot be made is told with the junction; the last one stays
  )
  let wanted: { path: string; body: unknown; head: string } | null = null
  let rests = () => true
  const ask = useDebounceFn(() => wanted && rests() && asks.ask(wanted), PAUSE)
  /** `path`: of the trial that is shown, with its body; `idle`: whether no newer one is on its way, which would ask for its own. */
  function askNear(path: string, body: unknown, idle: () => boolean) {
    if (ui.stage !== 'junctions') return
    wanted = { path, body, head: head() }
    rests = idle
    void ask()
  }
  /** What was let go without an act goes at once; else it stays until the whole is there, which is equal. */
  function endNear() {
    wanted = null
    asks.cancel()
    if (finishedNear.value?.head === head()) finishedNear.value = null
  }
  return { finishedNear, askNear, endNear }
}
