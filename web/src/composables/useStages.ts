/** What each stage still lacks, in words. */
import { computed } from 'vue'
import { STAGES, type StageId } from '@/stores/ui'
import { useWorkbench } from './workbench'

export type StageState = 'empty' | 'half' | 'full'

export function useStages() {
  const bench = useWorkbench()
  const states = computed(() => {
    const d = bench.design.value
    const ground = !!bench.surface.value?.sources.length
    const problem = (step: string) => bench.problems.value[step]?.sentence
    const told: Record<StageId, [StageState, string]> = {
      ground: ground ? ['full', ''] : ['empty', 'There is no ground yet: bring in survey points.'],
      line: !d?.pis.length ? ['empty', 'The road has no line yet.'] : problem('line') ? ['half', problem('line')!] : d.pis.slice(1, -1).some((p) => !p.radius) ? ['half', 'Some PIs have no radius.'] : ['full', ''],
      levels: !d?.levels ? ['empty', 'There is no profile yet.'] : problem('levels') ? ['half', problem('levels')!] : ['full', ''],
      sections: !bench.template.value ? ['empty', 'The road has no template.'] : ['full', ''],
      road: !d?.earthwork ? ['empty', problem('road') ?? 'The road needs a line, a profile, a template and ground.'] : d.findings.length ? ['half', `${d.findings.length} findings are open.`] : ['full', ''],
      junctions: ['empty', 'There is no junction yet.'],
      earthwork: d?.earthwork ? (d.earthwork.unknown > 0 ? ['half', 'Part of the road lies outside the ground.'] : ['full', '']) : ['empty', 'Volumes follow from the road.'],
      sheets: bench.sheets.value && d?.levels ? ['full', ''] : ['empty', 'Sheets need a line and a profile.'],
    }
    return STAGES.map((s) => ({ ...s, state: told[s.id][0], lacks: told[s.id][1] }))
  })
  return { states }
}
