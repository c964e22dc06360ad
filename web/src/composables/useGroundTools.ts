/** What the pointer does on the ground: choose and move points, add, join, turn sides, delete triangles, lay label paths, ask for water and sections. */
import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import { api, AppError } from '@/api/client'
import type { GroundPick, Water } from '@/api/types'
import { toScreen, toWorld, type ViewTransform } from '@/canvas/shared/viewTransform'
import { useTold } from '@/stores/told'
import { useUi } from '@/stores/ui'
import type { Ground } from './useGround'
import type { Workbench } from './workbench'

const REACH = 10 // px around the pointer in which a point is found
const round = (v: number) => Math.round(v * 1000) / 1000

export const GROUND_TOOLS = [
  { id: 'add-point', name: 'Add point', hint: 'Click where the point should be; it takes the level of the ground there, and you may type another.' },
  { id: 'join', name: 'Join', hint: 'Click points to join them by a new breakline. Enter or a double click ends it, Esc leaves it.' },
  { id: 'turn-side', name: 'Turn side', hint: 'Click a side between two triangles to turn it to their other diagonal.' },
  { id: 'delete-triangle', name: 'Delete triangle', hint: 'Click a triangle to take it out of the surface.' },
  { id: 'label-path', name: 'Label path', hint: 'Click along the path; contours get a label where they cross it. Enter or a double click ends it.' },
  { id: 'ground-section', name: 'Section', hint: 'Click along a line to see the ground under it. Enter or a double click ends it.' },
  { id: 'water', name: 'Water', hint: 'Click a place to see which ground drains to it, and where ponds stand.' },
] as const
const DRAWN = ['join', 'label-path', 'ground-section']

export function useGroundTools(bench: Workbench, ground: Ground, view: Ref<ViewTransform>) {
  const ui = useUi()
  const told = useTold()
  const surface = ground.surface
  /** Places of a line being drawn: E, N, level (null where there is no ground). */
  const draft = ref<[number, number, number | null][]>([])
  const water = shallowRef<Water | null>(null)
  const section = shallowRef<{ path: [number, number][]; points: [number, number | null][] } | null>(null)
  const dragged = shallowRef<[number, number] | null>(null)
  const active = computed(() => ui.stage === 'ground')
  const hint = computed(() => (active.value ? GROUND_TOOLS.find((t) => t.id === ui.tool)?.hint : undefined))
  const pick = computed<GroundPick | null>(() => (ui.selection?.kind === 'ground' ? ui.selection.pick : null))
  watch(() => ui.tool, () => {
    draft.value = []
    water.value = null
  })
  watch(() => [surface.value?.key, ui.stage], () => {
    water.value = null
    section.value = null
  })

  async function asked<T>(run: () => Promise<T>): Promise<T | null> {
    try {
      return await run()
    } catch (error) {
      if (!(error instanceof AppError)) throw error
      told.tell(error.message, { kind: 'wrong' })
      return null
    }
  }
  const nearest = (e: number, n: number) => asked(() => api.get<GroundPick | null>(`/surfaces/${surface.value!.id}/nearest?e=${e}&n=${n}&within=${REACH / view.value.scale}`))
  const levelAt = async (e: number, n: number) => (await asked(() => api.get<{ elevation: number | null }>(`/surfaces/${surface.value!.id}/reading?e=${e}&n=${n}`)))?.elevation ?? null

  async function click(e: number, n: number) {
    if (!surface.value?.sources.length) return
    if (ui.tool === 'add-point') return addPoint(e, n)
    if (ui.tool === 'turn-side') return void ground.edit([{ do: 'swap_edge', at: [e, n] }])
    if (ui.tool === 'delete-triangle') return void ground.edit([{ do: 'delete_triangles', at: [e, n] }])
    if (ui.tool === 'water') return void (water.value = await asked(() => api.get<Water>(`/surfaces/${surface.value!.id}/water?e=${e}&n=${n}`)))
    if (DRAWN.includes(ui.tool)) {
      const near = ui.tool === 'join' ? await nearest(e, n) : null
      draft.value = [...draft.value, near ? near.place : [e, n, ui.tool === 'join' ? await levelAt(e, n) : null]]
      return
    }
    const near = await nearest(e, n)
    ui.selection = near ? { kind: 'ground', pick: near } : null
  }
  async function addPoint(e: number, n: number) {
    const level = await levelAt(e, n)
    if (level === null) return void told.tell('There is no ground here to take a level from. Add the point inside the surface, then type its place and level.', { kind: 'wrong' })
    const to: [number, number, number] = [e, n, round(level)]
    if (await ground.edit([{ do: 'add_point', to }])) {
      const near = await nearest(e, n)
      if (near) ui.selection = { kind: 'ground', pick: near }
    }
  }
  async function finish() {
    const places = draft.value.filter((p, i, all) => i === 0 || Math.hypot(p[0] - all[i - 1]![0], p[1] - all[i - 1]![1]) > 0.05)
    draft.value = []
    const tool = ui.tool
    if (places.length < 2) return
    const path = places.map(([e, n]) => [e, n] as [number, number])
    if (tool === 'join') {
      if (places.some((p) => p[2] === null)) return void told.tell('A breakline needs a level at every vertex; one of these lies outside the ground.', { kind: 'wrong' })
      await ground.edit([{ do: 'add_line', vertices: places as [number, number, number][] }])
    } else if (tool === 'label-path') {
      ui.tool = ''
      await bench.act(() => api.patch(`/surfaces/${surface.value!.id}`, { revision: surface.value!.revision, label_paths: [...surface.value!.label_paths, path] }))
    } else if (tool === 'ground-section') {
      const got = await asked(() => api.get<{ points: [number, number | null][] }>(`/surfaces/${surface.value!.id}/ground-section?path=${path.map((p) => p.join(',')).join(';')}`))
      section.value = got ? { path, points: got.points } : null
      ui.tool = ''
    }
  }
  function cancel() {
    draft.value = []
    dragged.value = null
    section.value = null
    water.value = null
  }

  // --- dragging the chosen point, or a vertex of a label path -------------------------------------------
  let grabbed: { path: number; vertex: number } | 'pick' | null = null
  function grab(event: PointerEvent, what: { path: number; vertex: number } | 'pick') {
    if (event.button !== 0 || !bench.canEdit.value) return
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
    grabbed = what
    if (what !== 'pick') ui.selection = { kind: 'path', index: what.path }
  }
  function drag(event: PointerEvent) {
    if (!grabbed) return
    const box = (event.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect()
    dragged.value = toWorld(view.value, event.clientX - box.left, event.clientY - box.top).map(round) as [number, number]
  }
  async function drop() {
    const [what, to] = [grabbed, dragged.value]
    grabbed = null
    if (!what || !to) return void (dragged.value = null)
    if (what === 'pick') await moveTo({ e: to[0], n: to[1] })
    else {
      const paths = surface.value!.label_paths.map((p, i) => (i === what.path ? p.map((v, k) => (k === what.vertex ? to : v)) : p))
      await bench.act(() => api.patch(`/surfaces/${surface.value!.id}`, { revision: surface.value!.revision, label_paths: paths }), { quiet: true })
    }
    dragged.value = null
  }
  /** Move the chosen point or vertex: plan place, level, or both. */
  async function moveTo(values: { e?: number; n?: number; level?: number }) {
    const p = pick.value
    if (!p) return
    const to: [number, number, number] = [values.e ?? p.place[0], values.n ?? p.place[1], values.level ?? p.place[2] ?? 0]
    const edit = p.kind === 'vertex' ? { do: 'move_vertex', survey: p.survey, line: p.line, vertex: p.vertex, to } : { do: 'move_point', survey: p.survey, point: p.point, to }
    if (await ground.edit([edit])) ui.selection = { kind: 'ground', pick: { ...p, place: to } }
  }
  async function dropPath(index: number) {
    ui.selection = null
    await bench.act(() => api.patch(`/surfaces/${surface.value!.id}`, { revision: surface.value!.revision, label_paths: surface.value!.label_paths.filter((_, i) => i !== index) }))
  }
  const beingDragged = () => grabbed
  const draftPath = computed(() => draft.value.map(([e, n]) => toScreen(view.value, e, n).join(',')).join(' '))
  return { active, hint, draft, draftPath, water, section, dragged, pick, click, finish, cancel, grab, drag, drop, moveTo, dropPath, beingDragged }
}
export type GroundTools = ReturnType<typeof useGroundTools>
