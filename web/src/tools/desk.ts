/** What is in hand: the tools of the open views, and what is let go of by a key. */
import { computed, shallowReactive, watch } from 'vue'
import type { makeBursts } from '@/composables/burst'
import { useUi } from '@/stores/ui'
import type { Tool } from './tool'

// eslint-disable-next-line @typescript-eslint/no-explicit-any
type AnyTool = Tool<any>

export function makeDesk(bursts: ReturnType<typeof makeBursts>, endTrial: () => void) {
  const ui = useUi()
  const tools = shallowReactive<AnyTool[]>([])
  const drops = new Set<() => boolean>()

  /** Lay a view's tools out; gives what takes them away again. */
  function lay<P>(own: Tool<P>[]): () => void {
    tools.push(...own)
    return () => own.forEach((t) => tools.splice(tools.indexOf(t), 1))
  }
  /** A drag that Escape ends; gives what forgets it. */
  function holds(drop: () => boolean): () => void {
    drops.add(drop)
    return () => drops.delete(drop)
  }
  /** The tool in hand, where its view is open and its stage is this one. */
  const inHand = computed(() => tools.find((t) => t.id === ui.tool && t.stage === ui.stage) ?? null)
  /** The tool in hand that works in a view; clicks there are its own. */
  const inView = (view: AnyTool['view']) => (inHand.value?.view === view ? inHand.value : null)

  watch(inHand, (now, before) => before !== now && before?.cancel?.()) // another tool, another stage: what was being drawn goes

  const takeBack = () => inHand.value?.takeBack?.() ?? false
  const finish = () => inHand.value?.finish?.()
  /** Lay the tool away, with what is being drawn. */
  function layAway() {
    inHand.value?.cancel?.()
    ui.tool = ''
  }
  /** Escape lets go of one thing at a time: what is nudged or dragged, then what is drawn, then the tool, then what is chosen. */
  function letGo() {
    if (bursts.drop()) return endTrial()
    if ([...drops].some((drop) => drop())) return endTrial()
    if (inHand.value?.cancel?.()) return
    if (ui.tool) return layAway()
    ui.selection = null
  }
  return { tools, inHand, inView, lay, holds, takeBack, finish, layAway, letGo }
}
export type Desk = ReturnType<typeof makeDesk>
