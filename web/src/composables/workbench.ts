/** The open project and its active road: what the server said, a trial over it, the acts that change it, the tools that act. */
import { computed, inject, provide, ref, shallowRef, type InjectionKey } from 'vue'
import type { RoadDesign } from '@/api/types'
import { useActs } from '@/bench/acts'
import { useDesign } from '@/bench/design'
import { useFinishedTrial } from '@/bench/finishedTrial'
import { useJoin, useJunctions } from '@/bench/junctions'
import { useOthers } from '@/bench/others'
import { usePartBench } from '@/bench/partBench'
import { useProject } from '@/bench/project'
import { useSection } from '@/bench/section'
import { useStations } from '@/bench/stations'
import { useTerrain } from '@/bench/terrain'
import { useTrial } from '@/bench/trial'
import { makeDesk } from '@/tools/desk'

function makeWorkbench(projectId: number) {
  const trial = shallowRef<RoadDesign | null>(null)
  const acting = ref(0)
  const project = useProject(
    projectId,
    computed(() => trial.value === null && !acting.value),
  ) // nothing disturbs a drag
  const design = useDesign(project.project, trial)
  const near = useFinishedTrial(project.project)
  const trials = useTrial(trial, design.saved, near)
  const junctions = useJunctions(project.project, trials.triedJunctions, near)
  const endTrial = () => {
    junctions.endCornerTrial()
    trials.endTrial()
  }
  const acts = useActs({
    projectId,
    project: project.project,
    saved: design.saved,
    acting,
    endTrial,
  })
  const drawn = useSection(design.saved, trial)
  return {
    projectId,
    trial,
    acting,
    ...project,
    ...design,
    ...trials,
    finishedNear: near.finishedNear,
    ...acts,
    ...useStations(project.project, project.road, design.design),
    ...junctions,
    ...useJoin(projectId, acts.act, junctions.chosenJunction),
    ...useOthers(project.project, trials.triedOthers),
    ...drawn,
    ...useTerrain(project.surface),
    partBench: usePartBench({
      projectId,
      project: project.project,
      section: drawn.section,
      template: project.template,
      road: project.road,
      acts,
    }),
    desk: makeDesk(acts.bursts, endTrial),
  }
}

export type Workbench = ReturnType<typeof makeWorkbench>
const KEY: InjectionKey<Workbench> = Symbol('workbench')

export function provideWorkbench(projectId: number): Workbench {
  const bench = makeWorkbench(projectId)
  provide(KEY, bench)
  return bench
}

/** The open project, or null outside of one. */
export const useWorkbenchIfAny = (): Workbench | null => inject(KEY, null)

export function useWorkbench(): Workbench {
  const bench = inject(KEY)
  if (!bench) throw new Error('no project is open here')
  return bench
}
