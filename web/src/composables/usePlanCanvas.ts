/** The plan's canvas: terrain painted once into a bitmap and again, sharp, when the view rests; lines drawn each frame asked for. */
import { useResizeObserver } from '@vueuse/core'
import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'
import { drawBreaklines, drawChainages, drawContourLabels, drawContours, drawRoad, drawTriangles, showsInnerEdges, type ContourSet, type RoadDrawing } from '@/canvas/plan/layers'
import { drawFlow, drawGroundLines, drawPoints, drawSpots, showsPoints } from '@/canvas/plan/groundLayers'
import { makeMesh, paintTerrain, type TerrainMesh } from '@/canvas/plan/terrain'
import { placeAt, type LinePoints } from '@/canvas/shared/alongLine'
import { fitExtent, toScreen, type ViewTransform } from '@/canvas/shared/viewTransform'
import { useUi } from '@/stores/ui'
import type { Ground } from './useGround'
import type { Workbench } from './workbench'

const REST = 140 // ms without movement before the terrain is painted anew

/** The place people last looked at, per project, kept while the page is open. */
const remembered = new Map<number, ViewTransform>()

export function usePlanCanvas(bench: Workbench, ground: Ground, canvas: Ref<HTMLCanvasElement | null>, host: Ref<HTMLElement | null>) {
  const ui = useUi()
  const view = ref<ViewTransform>(remembered.get(bench.projectId) ?? { e: 0, n: 0, scale: 0, width: 1, height: 1 })
  const bitmap = shallowRef<{ image: HTMLCanvasElement; view: ViewTransform } | null>(null)
  const drawn = ref(false)
  let frame = 0
  let rest = 0

  const mesh = computed<TerrainMesh | null>(() => {
    const t = bench.terrain.value
    if (!t) return null
    return makeMesh(t.header.origin, t.floats.points!, t.ints.triangles!, t.ints.breaklines!, t.header.extent as TerrainMesh['extent'], (t.header.robust_levels ?? t.header.levels) as [number, number])
  })
  const contours = computed<ContourSet | null>(() => {
    const c = bench.contours.value
    return c ? { origin: c.header.origin, xy: c.floats.xy!, starts: c.ints.starts!, levels: c.floats.levels!, interval: c.header.interval as number } : null
  })
  const road = computed<RoadDrawing | null>(() => {
    const d = bench.design.value
    if (!d?.line) return null
    const stale = Object.keys(bench.problems.value).length > 0
    return { points: d.line.points, edges: d.edges, stale }
  })

  function extent(): [number, number, number, number] | null {
    if (mesh.value) return mesh.value.extent
    const pis = bench.design.value?.pis ?? []
    if (pis.length < 2) return null
    const e = pis.map((p) => p.easting), n = pis.map((p) => p.northing)
    return [Math.min(...e), Math.min(...n), Math.max(...e), Math.max(...n)]
  }
  const EMPTY_SCALE = 0.5 // pixels per metre while there is nothing to fit
  function fit() {
    const all = extent()
    if (all) view.value = fitExtent(view.value, all)
    else if (!view.value.scale) view.value = { ...view.value, scale: EMPTY_SCALE }
  }

  useResizeObserver(host, ([entry]) => {
    if (!entry) return
    const { width, height } = entry.contentRect
    if (!width || !height) return
    view.value = { ...view.value, width: Math.max(width, 1), height: Math.max(height, 1) }
    if (!view.value.scale) fit()
    bitmap.value = null
    paintSoon(0)
  })

  function paint() {
    const m = mesh.value
    const v = view.value
    if (!m || !v.scale || v.width < 2 || !ui.shown.heights) {
      bitmap.value = null
      return draw()
    }
    const image = document.createElement('canvas')
    image.width = Math.round(v.width)
    image.height = Math.round(v.height)
    const pen = image.getContext('2d')!
    const data = pen.createImageData(image.width, image.height)
    paintTerrain(m, v, data.data, image.width, image.height, ui.terrainColours)
    pen.putImageData(data, 0, 0)
    bitmap.value = { image, view: { ...v } }
    draw()
  }
  function paintSoon(wait = REST) {
    clearTimeout(rest)
    rest = window.setTimeout(paint, wait)
  }
  /** Terrain, contours and breaklines as the view shows them; drawn again only when one of them or the view has changed. */
  let base: { image: HTMLCanvasElement; made: unknown[] } | null = null
  function drawBase(width: number, height: number, ratio: number): HTMLCanvasElement {
    const v = view.value
    const b = bitmap.value
    const made = [v.e, v.n, v.scale, width, height, b, mesh.value, contours.value, ground.lines.value, ui.stage, ...Object.values(ui.shown)]
    if (base && made.every((m, i) => m === base!.made[i])) return base.image
    const image = base?.image ?? document.createElement('canvas')
    Object.assign(image, { width, height })
    const pen = image.getContext('2d')!
    pen.setTransform(ratio, 0, 0, ratio, 0, 0)
    pen.fillStyle = '#ffffff'
    pen.fillRect(0, 0, v.width, v.height)
    if (b && ui.shown.heights) {
      const k = v.scale / b.view.scale
      const [x, y] = toScreen(v, b.view.e, b.view.n)
      pen.drawImage(b.image, x - (b.view.width / 2) * k, y - (b.view.height / 2) * k, b.view.width * k, b.view.height * k)
    }
    if (mesh.value && ui.shown.triangles) drawTriangles(pen, mesh.value, v)
    if (contours.value && ui.shown.contours) drawContours(pen, contours.value, v)
    const lines = ground.lines.value
    if (lines && ui.shown.mapping) drawGroundLines(pen, lines, v, ['background', 'unsorted', 'outer', 'hole'])
    if (lines && ui.shown.breaklines) drawGroundLines(pen, lines, v, ['breakline'])
    else if (mesh.value && ui.shown.breaklines) drawBreaklines(pen, mesh.value, v)
    if (mesh.value && ui.stage === 'ground' && ui.shown.points && showsPoints(v.scale)) drawPoints(pen, mesh.value, v)
    if (mesh.value && ui.shown.flow) drawFlow(pen, mesh.value, v)
    if (mesh.value && ui.shown.spots) drawSpots(pen, mesh.value, v)
    if (contours.value && ui.shown.contours) drawContourLabels(pen, contours.value, v)
    base = { image, made }
    return image
  }
  function draw() {
    cancelAnimationFrame(frame)
    frame = requestAnimationFrame(drawNow)
  }
  function drawNow() {
    const c = canvas.value
    const v = view.value
    if (!c || !v.scale) return
    const ratio = window.devicePixelRatio || 1
    const width = Math.round(v.width * ratio), height = Math.round(v.height * ratio)
    if (c.width !== width || c.height !== height) Object.assign(c, { width, height })
    const pen = c.getContext('2d')!
    pen.setTransform(1, 0, 0, 1, 0, 0)
    pen.drawImage(drawBase(width, height, ratio), 0, 0)
    pen.setTransform(ratio, 0, 0, ratio, 0, 0)
    if (road.value && ui.shown.road) {
      drawRoad(pen, road.value, v)
      drawChainages(pen, road.value, v, (s) => bench.station(s, 0), (s) => placeAt(road.value!.points as LinePoints, s))
    }
    drawn.value = !!mesh.value || !!road.value
  }

  watch(view, (v) => {
    remembered.set(bench.projectId, v)
    ui.planNear = showsInnerEdges(v.scale)
    draw()
    paintSoon()
  })
  watch(mesh, (now, before) => {
    if (now && (!before || !view.value.scale)) fit()
    paintSoon(0)
  }, { immediate: true })
  watch(() => [ui.shown.heights, ui.terrainColours], () => paintSoon(0))
  watch([contours, road, ground.lines, () => ui.stage, () => ui.shown], draw, { deep: false })
  watch(() => ({ ...ui.shown }), draw)
  watch(() => ui.goTo, (to) => to && (view.value = { ...view.value, e: to.e, n: to.n, scale: Math.max(view.value.scale, 1.2) }))
  onScopeDispose(() => {
    cancelAnimationFrame(frame)
    clearTimeout(rest)
  })
  return { view, mesh, road, fit, drawn, draw }
}
