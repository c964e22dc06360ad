/** The plan's canvas: terrain painted once into a bitmap and again, sharp, when the view rests; lines drawn each frame asked for. */
import { useResizeObserver } from '@vueuse/core'
import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'
import { annotate, annotationBoxes, drawAnnotation, onScreen, textPx } from '@/canvas/plan/annotation'
import {
  drawBreaklines,
  drawChainages,
  drawContourLabels,
  drawContours,
  drawLand,
  drawOtherRoads,
  drawRoadNames,
  placeChainages,
  drawRoad,
  drawTriangles,
  showsInnerEdges,
  type RoadDrawing,
} from '@/canvas/plan/layers'
import { drawFinished } from '@/canvas/plan/finished'
import { drawFlow, drawGroundLines, drawPoints, drawSpots, showsPoints } from '@/canvas/plan/groundLayers'
import { paintTerrain, type TerrainMesh } from '@/canvas/plan/terrain'
import { placeAt, type LinePoints } from '@/canvas/shared/alongLine'
import { fitExtent, toScreen, type ViewTransform } from '@/canvas/shared/viewTransform'
import { countedAt } from '@/lib/chainage'
import { boxAround, type Box } from '@/lib/labels'
import { units } from '@/lib/units'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'
import type { Ground } from './useGround'
import { useFinished } from './useFinished'
import { useLand } from './useLand'
import { useShown } from './useShown'
import type { Workbench } from './workbench'

const REST = 140 // ms without movement before the plan is painted anew
const DIM = 0.35
const THUMB = 360 // px

/** The place people last looked at, per project, kept while the page is open. */
const remembered = new Map<number, ViewTransform>()

export function usePlanCanvas(bench: Workbench, ground: Ground, canvas: Ref<HTMLCanvasElement | null>, host: Ref<HTMLElement | null>) {
  const ui = useUi()
  const look = useLook()
  const view = shallowRef<ViewTransform>(remembered.get(bench.projectId) ?? { e: 0, n: 0, scale: 0, width: 1, height: 1 })
  const bitmap = shallowRef<{ image: HTMLCanvasElement; view: ViewTransform } | null>(null)
  const drawn = ref(false)
  let frame = 0
  let rest = 0

  const shownGround = useShown(bench, view)
  const land = useLand(bench).picture
  const { lines: finished, nearLines } = useFinished(bench)
  const mesh = shownGround.overview
  const line = computed(() => bench.design.value?.line ?? null)
  const pis = computed(() => bench.design.value?.pis ?? null)
  const edges = computed(() => bench.design.value?.edges ?? null)
  const stale = computed(() => Object.keys(bench.problems.value).length > 0)
  const road = computed<RoadDrawing | null>(() => {
    if (!line.value || !edges.value) return null // read one by one: findings that come alone draw nothing anew
    return { points: line.value.points, edges: edges.value, roles: bench.project.value?.roles ?? [], stale: stale.value }
  })

  function extent(): [number, number, number, number] | null {
    if (mesh.value) return mesh.value.extent
    const pis = bench.design.value?.pis ?? []
    if (pis.length < 2) return null
    const e = pis.map((p) => p.easting),
      n = pis.map((p) => p.northing)
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

  function painted(meshes: TerrainMesh[], v: ViewTransform): HTMLCanvasElement {
    const image = document.createElement('canvas')
    Object.assign(image, { width: Math.round(v.width), height: Math.round(v.height) })
    const pen = image.getContext('2d')!
    const data = pen.createImageData(image.width, image.height)
    for (const m of meshes)
      paintTerrain(m, v, data.data, image.width, image.height, look.terrainColours, look.contourStep * look.contours.every)
    pen.putImageData(data, 0, 0)
    return image
  }
  function paint() {
    moving = false
    const m = mesh.value
    const v = view.value
    if (!m || !v.scale || v.width < 2 || !look.shown.heights) bitmap.value = null
    else {
      const finest = shownGround.finest.value
      bitmap.value = {
        image: painted(finest === m ? [m] : [...(shownGround.near.value && finest !== shownGround.near.value ? [m] : []), finest!], v),
        view: { ...v },
      }
    }
    draw()
  }
  /** The whole terrain in a small picture, for what comes into view while the plan is moved. */
  const thumb = computed(() => {
    const m = mesh.value
    void look.terrainColours
    if (!m) return null
    const small = fitExtent({ e: 0, n: 0, scale: 0, width: THUMB, height: THUMB }, m.extent, 0)
    return { image: painted([m], small), view: small }
  })
  function paintSoon(wait = REST) {
    clearTimeout(rest)
    rest = window.setTimeout(paint, wait)
  }
  /** A picture taken at one view, put where it belongs in another. */
  function place(pen: CanvasRenderingContext2D, picture: { image: HTMLCanvasElement; view: ViewTransform }, v: ViewTransform) {
    const k = v.scale / picture.view.scale
    const [x, y] = toScreen(v, picture.view.e, picture.view.n)
    pen.drawImage(
      picture.image,
      x - (picture.view.width / 2) * k,
      y - (picture.view.height / 2) * k,
      picture.view.width * k,
      picture.view.height * k,
    )
  }
  /** Terrain, contours and received lines as the view shows them; drawn again only when one of them or the view has changed. */
  let base: { image: HTMLCanvasElement; view: ViewTransform; made: unknown[]; texts: Box[] } | null = null
  let moving = false
  function drawBase(width: number, height: number, ratio: number, taken: readonly Box[]): NonNullable<typeof base> {
    const v = view.value
    const b = bitmap.value
    const style = look.contours
    const made = [
      v.e,
      v.n,
      v.scale,
      width,
      height,
      b,
      shownGround.finest.value,
      shownGround.contours.value,
      ground.lines.value,
      ui.stage,
      bench.saved.value?.key,
      style.every,
      style.minor,
      style.major,
      ...Object.values(look.shown),
      JSON.stringify([look.dimmed, look.hiddenLayers]),
    ]
    if (base && made.every((m, i) => m === base!.made[i])) return base
    const image = base?.image ?? document.createElement('canvas')
    Object.assign(image, { width, height })
    const pen = image.getContext('2d')!
    pen.setTransform(ratio, 0, 0, ratio, 0, 0)
    pen.fillStyle = '#ffffff'
    pen.fillRect(0, 0, v.width, v.height)
    const faint = (id: string, run: () => void) => {
      pen.globalAlpha = look.dimmed[id] ? DIM : 1
      run()
      pen.globalAlpha = 1
    }
    const shown = look.shown
    if (b && shown.heights) faint('heights', () => place(pen, b, v))
    const fine = shownGround.finest.value
    const contours = shownGround.contours.value
    const lines = ground.lines.value
    if (fine && shown.triangles) faint('triangles', () => drawTriangles(pen, fine, v))
    if (contours && shown.contours) faint('contours', () => drawContours(pen, contours, v, style))
    if (lines && shown.mapping) {
      const behind = ['background', 'unsorted', 'outer', 'hole'] as const
      const strong = (layer: string) => !look.hiddenLayers[layer] && !look.dimmed[`mapping/${layer}`]
      faint('mapping', () => drawGroundLines(pen, lines, v, behind, strong))
      pen.globalAlpha = DIM
      drawGroundLines(pen, lines, v, behind, (layer) => !look.hiddenLayers[layer] && !strong(layer))
      pen.globalAlpha = 1
    }
    if (lines && shown.breaklines) faint('breaklines', () => drawGroundLines(pen, lines, v, ['breakline']))
    else if (fine && shown.breaklines) faint('breaklines', () => drawBreaklines(pen, fine, v))
    if (fine && ui.stage === 'ground' && shown.points && showsPoints(v.scale)) faint('points', () => drawPoints(pen, fine, v))
    if (fine && shown.flow) faint('flow', () => drawFlow(pen, fine, v))
    if (fine && shown.spots) faint('spots', () => drawSpots(pen, fine, v))
    const texts = [...taken]
    if (contours && shown.contours) faint('contours', () => drawContourLabels(pen, contours, v, style, texts))
    base = { image, view: { ...v }, made, texts: texts.slice(taken.length) }
    return base
  }
  /** While the plan moves: the last picture where it belongs now, and the small one of the whole where that does not reach. */
  function drawMoving(
    pen: CanvasRenderingContext2D,
    v: ViewTransform,
    ratio: number,
    last: { image: HTMLCanvasElement; view: ViewTransform },
  ) {
    const k = v.scale / last.view.scale
    const [x, y] = toScreen(v, last.view.e, last.view.n)
    const [w, h] = [last.view.width * k, last.view.height * k]
    // whole pixels while only panned: a plain copy is several times as quick as a resampled one
    const snap = (p: number) => (k === 1 ? Math.round(p * ratio) / ratio : p)
    const [left, top] = [snap(x - w / 2), snap(y - h / 2)]
    const beside: [number, number, number, number][] = [
      [0, 0, v.width, top],
      [0, top + h, v.width, v.height],
      [0, top, left, top + h],
      [left + w, top, v.width, top + h],
    ]
    for (const [x0, y0, x1, y1] of beside) {
      const [a, b, c, d] = [Math.max(x0, 0), Math.max(y0, 0), Math.min(x1, v.width), Math.min(y1, v.height)]
      if (c <= a || d <= b) continue
      pen.save()
      pen.beginPath()
      pen.rect(a, b, c - a, d - b)
      pen.clip()
      pen.fillStyle = '#ffffff'
      pen.fillRect(a, b, c - a, d - b)
      if (thumb.value && look.shown.heights) place(pen, thumb.value, v)
      pen.restore()
    }
    pen.imageSmoothingEnabled = k !== 1
    pen.drawImage(last.image, left, top, w, h)
    pen.imageSmoothingEnabled = true
  }
  /** widths of texts over their height, measured once each */
  const widths = new Map<string, number>()
  const measure = document.createElement('canvas').getContext('2d')
  function wide(text: string): number {
    let w = widths.get(text)
    if (w === undefined) {
      if (measure) measure.font = "500 125px 'IBM Plex Sans Variable', sans-serif"
      w = (measure?.measureText(text).width ?? 60 * text.length) / 100
      widths.set(text, w)
    }
    return w
  }
  /** A style's intervals in m. */
  const onGround = (style: typeof look.annotation) => ({
    ...style,
    tick: style.tick * units.value.metre,
    text: style.text * units.value.metre,
  })
  const style = computed(() => onScreen(look.annotation, view.value, look.annotationTrue))
  /** the scale alone, so that a view that is only moved places no text anew */
  const styleScale = computed(() => style.value.scale)
  const annotation = computed(() => {
    const shown = ui.stage === 'line' && view.value.scale ? line.value : null
    if (!shown) return null
    const points = shown.points as LinePoints
    return annotate(
      shown.elements,
      [shown.start, shown.end],
      onGround({ ...look.annotation, scale: styleScale.value }),
      (s) => placeAt(points, s),
      (s) => bench.station(s, Math.abs(countedAt(s, bench.equations.value) % 1) < 1e-6 ? 0 : 2),
      wide,
      bench.equations.value,
      (pis.value ?? []).map((p) => ({ e: p.easting, n: p.northing })),
    )
  })
  watch([annotation, style], ([a, now]) => (ui.annotated = a ? { dropped: a.dropped, px: textPx(now, view.value) } : null))
  /** Where the handles of PIs stand with their names, px. */
  function piBoxes(v: ViewTransform): Box[] {
    if (!['line', 'levels'].includes(ui.stage)) return []
    return (bench.design.value?.pis ?? []).flatMap((p) => {
      const [x, y] = toScreen(v, p.easting, p.northing)
      return [boxAround(x, y, 8), { x0: x + 8, x1: x + 42, y0: y + 3, y1: y + 18 }]
    })
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
    const width = Math.round(v.width * ratio),
      height = Math.round(v.height * ratio)
    if (c.width !== width || c.height !== height) Object.assign(c, { width, height })
    const pen = c.getContext('2d')!
    pen.setTransform(ratio, 0, 0, ratio, 0, 0)
    const taken = piBoxes(v)
    const notes = road.value && look.shown.road ? annotation.value : null
    if (notes) taken.push(...annotationBoxes(notes, v))
    const marks =
      !notes && road.value && look.shown.road
        ? placeChainages(
            pen,
            road.value,
            v,
            bench.equations.value,
            (s) => bench.station(s, 0),
            (s) => placeAt(road.value!.points as LinePoints, s),
            taken,
          )
        : []
    if (moving && base) {
      drawMoving(pen, v, ratio, base)
    } else {
      const still = drawBase(width, height, ratio, taken)
      pen.setTransform(1, 0, 0, 1, 0, 0)
      pen.drawImage(still.image, 0, 0)
      taken.push(...still.texts)
      pen.setTransform(ratio, 0, 0, ratio, 0, 0)
    }
    if (look.shown.road && land.value) drawLand(pen, land.value.rings, v)
    if (look.shown.finished && finished.value) drawFinished(pen, finished.value, v, nearLines.value)
    if (look.shown.road) drawOtherRoads(pen, bench.others.value, v)
    if (road.value && look.shown.road) {
      drawRoad(pen, road.value, v)
      if (notes) drawAnnotation(pen, notes, v, style.value)
      else drawChainages(pen, marks)
    }
    if (look.shown.road) drawRoadNames(pen, bench.others.value, v, taken)
    drawn.value = !!mesh.value || !!road.value
  }

  watch(view, (v) => {
    remembered.set(bench.projectId, v)
    moving = base !== null
    look.planNear = showsInnerEdges(v.scale)
    draw()
    paintSoon()
  })
  watch(
    mesh,
    (now, before) => {
      if (now && (!before || !view.value.scale)) fit()
      paintSoon(0)
    },
    { immediate: true },
  )
  watch(shownGround.near, () => paintSoon(moving ? REST : 0))
  watch(
    () => [look.shown.heights, look.terrainColours, look.contourStep * look.contours.every],
    () => paintSoon(0),
  )
  watch(
    [
      annotation,
      land,
      finished,
      nearLines,
      shownGround.contours,
      road,
      bench.others,
      ground.lines,
      () => ui.stage,
      () => ({ ...look.shown }),
      () => ({ ...look.contours }),
      () => ({ ...look.dimmed }),
      () => ({ ...look.hiddenLayers }),
    ],
    draw,
  )
  watch(
    () => ui.goTo,
    (to) => {
      if (!to) return
      if (to.extent) return void (view.value = fitExtent(view.value, to.extent))
      const least = to.span ? Math.min(view.value.width, view.value.height) / to.span : 1.2
      view.value = { ...view.value, e: to.e, n: to.n, scale: Math.max(view.value.scale, least) }
    },
  )
  onScopeDispose(() => {
    cancelAnimationFrame(frame)
    clearTimeout(rest)
  })
  return { view, mesh, sharpening: shownGround.sharpening, road, fit, drawn, draw }
}
