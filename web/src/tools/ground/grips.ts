/** What is dragged on the ground: the chosen point or vertex, and the vertices of label paths. It is shown where it is held and
 * saved when let go. */
import { computed, shallowRef } from 'vue'
import type { EditRow, GroundPick } from '@/api/types'
import { useUi } from '@/stores/ui'
import type { Grip } from '../drag'
import { tidy, type PlanPlace } from '../tool'
import type { GroundWork } from './index'

type Place = [number, number]

export function useGroundGrips({ bench, ground, surface }: GroundWork) {
  const ui = useUi()
  const held = shallowRef<{ id: string; at: Place } | null>(null)
  const pick = computed<GroundPick | null>(() => (ui.selection?.kind === 'ground' ? ui.selection.pick : null))
  const knotId = (path: number, vertex: number) => `path-${path}-${vertex}`

  function grip(id: string, save: (at: Place) => unknown): Grip<PlanPlace, Place> | null {
    if (!bench.canEdit.value) return null
    return {
      id,
      to: ({ e, n }) => [tidy(e), tidy(n)],
      tryOut: (at) => (held.value = { id, at }),
      async save(at) {
        held.value = { id, at } // until it is there
        await save(at)
        held.value = null
      },
      back: () => (held.value = null),
    }
  }
  const pickGrip = () => grip('pick', ([e, n]) => moveTo(e, n))
  const knotGrip = (path: number, vertex: number) =>
    grip(knotId(path, vertex), (to) => {
      const { id, label_paths } = surface.value!
      const moved = label_paths.map((p, i) => (i === path ? p.map((v, k) => (k === vertex ? to : v)) : p))
      return bench.change('surface', id, { label_paths: moved }, { quiet: true })
    })
  /** Move the chosen point or vertex in plan; it keeps its level. */
  async function moveTo(e: number, n: number) {
    const p = pick.value
    if (!p) return
    const to: [number, number, number] = [e, n, p.place[2] ?? 0]
    const edit: EditRow =
      p.kind === 'vertex'
        ? { do: 'move_vertex', survey: p.survey, line: p.line, vertex: p.vertex, to }
        : { do: 'move_point', survey: p.survey, point: p.point, to }
    if (await ground.edit([edit])) ui.selection = { kind: 'ground', pick: { ...p, place: to } }
  }
  return { held, pick, knotId, pickGrip, knotGrip }
}
export type GroundGrips = ReturnType<typeof useGroundGrips>
