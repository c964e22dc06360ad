/** The tools of the ground stage. */
import { shallowRef, watch } from 'vue'
import { api, AppError } from '@/api/client'
import type { FinishedCut, GroundCut, GroundPick, GroundReading, Water } from '@/api/types'
import type { ViewTransform } from '@/canvas/shared/viewTransform'
import type { Ground } from '@/composables/useGround'
import type { Workbench } from '@/composables/workbench'
import { useTold } from '@/stores/told'
import { useUi } from '@/stores/ui'
import type { PlanPlace, Tool } from '../tool'
import { addPoint } from './addPoint'
import { deleteTriangle } from './deleteTriangle'
import { groundSection } from './groundSection'
import { join } from './join'
import { labelPath } from './labelPath'
import { turnSide } from './turnSide'
import { water } from './water'

export type SectionCut = GroundCut & Partial<FinishedCut>
const REACH = 10 // px around the pointer in which a point is found

/** What the ground's tools share: the surface's edits, questions to it, and what they show. */
export function useGroundWork(bench: Workbench, ground: Ground, view: () => ViewTransform) {
  const ui = useUi()
  const told = useTold()
  const surface = ground.surface
  /** the catchment of a place that was asked for, and the ponds */
  const gathered = shallowRef<Water | null>(null)
  /** the ground under a line that was drawn, `through` all that is built on it */
  const section = shallowRef<{ path: [number, number][]; through: boolean; cut: SectionCut } | null>(null)
  let asks = 0
  async function cutAlong(path: [number, number][], through: boolean) {
    const own = ++asks
    if (through) void bench.partBench.needLibrary() // knows the colours of layers
    const places = path.map((p) => p.join(',')).join(';')
    const cut = await ask<SectionCut>(`${through ? 'finished/section' : 'ground-section'}?path=${places}`)
    if (own === asks && (cut || !section.value)) section.value = cut ? { path, through, cut } : null
  }
  watch(
    () => [surface.value?.key, ui.stage],
    () => (gathered.value = null),
  )
  watch(
    () => ui.stage,
    () => (section.value = null),
  )
  watch(
    () => [surface.value?.key, bench.project.value?.ledger.head],
    () => section.value && cutAlong(section.value.path, section.value.through),
  )
  watch(
    () => ui.tool,
    () => (gathered.value = null),
  )

  async function asked<T>(run: () => Promise<T>): Promise<T | null> {
    try {
      return await run()
    } catch (error) {
      if (!(error instanceof AppError)) throw error
      told.tell(error.message, { kind: 'wrong' })
      return null
    }
  }
  const ask = <T>(what: string) => asked(() => api.get<T>(`/surfaces/${surface.value!.id}/${what}`))
  const nearest = ({ e, n }: PlanPlace) => ask<GroundPick | null>(`nearest?e=${e}&n=${n}&within=${REACH / view().scale}`)
  const levelAt = async ({ e, n }: PlanPlace) => (await ask<GroundReading>(`reading?e=${e}&n=${n}`))?.elevation ?? null
  const there = () => !!surface.value?.sources.length
  async function choose(at: PlanPlace) {
    const near = await nearest(at)
    ui.selection = near ? { kind: 'ground', pick: near } : null
  }
  return { bench, ground, surface, gathered, section, cutAlong, told, ask, nearest, levelAt, there, choose }
}
export type GroundWork = ReturnType<typeof useGroundWork>

export const groundTools = (on: GroundWork): Tool<PlanPlace>[] => [
  addPoint(on),
  join(on),
  turnSide(on),
  deleteTriangle(on),
  labelPath(on),
  groundSection(on),
  groundSection(on, true),
  water(on),
]
