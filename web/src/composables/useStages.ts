/** What each stage still lacks, in words. */
import { computed } from 'vue'
import { STAGES, type StageId } from '@/stores/ui'
import { useOpenFindings } from './useOpenFindings'
import { useWorkbench } from './workbench'

export type StageState = 'empty' | 'half' | 'full'

export function useStages() {
  const bench = useWorkbench()
  const open = useOpenFindings(bench)
  const many = (n: number, what: string) => `${n} ${what}${n === 1 ? ' is' : 's are'} open.`
  const states = computed(() => {
    const d = bench.design.value
    const ground = !!bench.surface.value?.sources.length
    const problem = (step: string) => bench.problems.value[step]?.sentence
    const told: Record<StageId, [StageState, string]> = {
      ground: ground ? groundState() : ['empty', 'There is no ground yet: bring in survey points.'],
      line: !d?.pis.length
        ? ['empty', 'The road has no line yet.']
        : problem('line')
          ? ['half', problem('line')!]
          : d.pis.slice(1, -1).some((p) => !p.radius)
            ? ['half', 'Some PIs have no radius.']
            : open.about('pi')
              ? ['half', many(open.about('pi'), 'finding')]
              : ['full', ''],
      levels: !d?.levels
        ? ['empty', 'There is no profile yet.']
        : problem('levels')
          ? ['half', problem('levels')!]
          : open.about('pvi')
            ? ['half', many(open.about('pvi'), 'finding')]
            : ['full', ''],
      sections: !bench.template.value && bench.road.value?.course.kind !== 'return' ? ['empty', 'The road has no template.'] : ['full', ''],
      road: !d?.earthwork
        ? ['empty', problem('road') ?? 'The road needs a line, a profile, a template and ground.']
        : open.road.value
          ? ['half', many(open.road.value, 'finding')]
          : ['full', ''],
      junctions: !bench.junctions.value.length
        ? ['empty', 'There is no junction yet.']
        : bench.junctions.value.some((j) => j.problems.length || j.findings.length)
          ? ['half', bench.junctions.value.flatMap((j) => j.problems)[0] ?? 'A finding of a junction is open.']
          : ['full', ''],
      earthwork: d?.earthwork
        ? d.earthwork.unknown > 0
          ? ['half', 'Part of the road lies outside the ground.']
          : ['full', '']
        : ['empty', 'Volumes follow from the road.'],
      sheets: bench.sheets.value && d?.levels ? ['full', ''] : ['empty', 'Sheets need a line and a profile.'],
    }
    function groundState(): [StageState, string] {
      const lacks = [
        open.ground.value && many(open.ground.value, 'finding'),
        open.unsorted.value && `${open.unsorted.value} layer${open.unsorted.value === 1 ? ' has' : 's have'} no role.`,
      ].filter(Boolean)
      return lacks.length ? ['half', lacks.join(' ')] : ['full', '']
    }
    return STAGES.map((s) => ({ ...s, state: told[s.id][0], lacks: told[s.id][1] }))
  })
  return { states }
}
