/** The tools of the ground stage. */
import { shallowRef, watch } from 'vue'
import { api, AppError } from '@/api/client'
import type { GroundPick, GroundReading, Water } from '@/api/types'
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

type Row = [number, number | null]
const REACH = 10 // px around the pointer in which a point is found

/** What the ground's tools share: the surface's edits, questions to it, and what they show. */
export function useGroundWork(bench: Workbench, ground: Ground, view: () => ViewTransform) {
  const ui = useUi()
  const told = useTold()
  const surface = ground.surface
  /** the catchment of a place that was asked for, and the ponds */
  const gathered = shallowRef<Water | null>(null)
  /** the ground under a line that was drawn */
  const section = shallowRef<{ path: [number, number][]; points: Row[]; finished?: Row[] } | null>(null)
  watch(
    () => [surface.value?.key, ui.stage],
    () => {
      gathered.value = null
      section.value = null
    },
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
  return { bench, ground, surface, gathered, section, told, ask, nearest, levelAt, there, choose }
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
