/** How a person looks at things: what is drawn and how, which parts of the page are open. None of it is the project's. */
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import type { VolumeWay } from '@/api/types'
import { units } from '@/lib/units'
import type { TerrainColours } from '@/canvas/plan/terrain'
import type { StageId, ViewId } from './ui'

const ANNOTATION = { scale: 2500, tick: 20, text: 100, points: true, elements: true, size: 2.5, away: 3 }
const CONTOURS = {
  interval: 1,
  every: 5,
  minor: '#c9b794',
  major: '#9c7f55',
  rounded: false,
  labelStrong: false,
  labelDecimals: 0,
  labelSize: 11,
}

const TEXTS = { names: false, slopes: true, widths: false, levels: false, layers: false }

export const useLook = defineStore('look', () => {
  // --- plan and model -----------------------------------------------------------------------------------
  const shown = ref({
    heights: true,
    contours: true,
    triangles: false,
    breaklines: true,
    mapping: true,
    points: true,
    flow: false,
    spots: false,
    finished: true,
    road: true,
  })
  const terrainColours = ref<TerrainColours>('heights')
  /** layers drawn faintly: of the plan by their name here, received ones by `mapping/` and their layer */
  const dimmed = ref<Record<string, boolean>>({})
  /** received layers that are not drawn */
  const hiddenLayers = ref<Record<string, boolean>>({})
  /** intervals count in the project's unit of length */
  const contours = useLocalStorage('ivory.contours', CONTOURS, { mergeDefaults: true })
  /** contours in m; people say them in the project's unit */
  const contourStep = computed(() => contours.value.interval * units.value.metre)
  /** the plan is near enough to show all edge lines */
  const planNear = ref(true)
  /** how the plan's line is annotated, marks in the project's unit of length; saved styles are the project's */
  const annotation = useLocalStorage('ivory.annotation', ANNOTATION, { mergeDefaults: true })
  /** its texts on screen as large as the scale says, however small or large that is */
  const annotationTrue = useLocalStorage('ivory.annotation-true', false)
  /** lines drawn in plan catch what was received */
  const snapping = useLocalStorage('ivory.snapping', true)
  /** edge lines of the road over the model's surfaces */
  const modelEdges = ref(false)
  /** the ground in space under the plan of stage 1 */
  const groundModel = ref(false)
  // --- long section and cross section -------------------------------------------------------------------
  /** ground beside the line and of other surfaces, on the long section */
  const longBeds = ref(false)
  const longGround = ref<{ offsets: number[]; surfaces: number[] }>({ offsets: [], surfaces: [] })
  /** how a PVI is dragged */
  const pviDrag = ref<'free' | 'up' | 'along' | 'in' | 'out'>('free')
  /** the lane of sight distances over the long section */
  const sightLane = ref(false)
  /** what is written into cross sections, and into the drawing on the bench */
  const sectionTexts = useLocalStorage('ivory.section-texts', TEXTS, { mergeDefaults: true })
  const benchTexts = useLocalStorage('ivory.bench-texts', { ...TEXTS, names: true }, { mergeDefaults: true })
  const volumeWay = ref<VolumeWay>('bends')
  // --- the page -----------------------------------------------------------------------------------------
  /** which of their lower views stages show */
  const lower = ref<Partial<Record<StageId, ViewId>>>({ line: 'table', road: 'model' })
  /** groups of the inspector, by heading: open or not */
  const folds = useLocalStorage<Record<string, boolean>>('ivory.folds', {})
  const inspectorOpen = ref(true)
  const tableOpen = ref(true)
  return {
    shown,
    terrainColours,
    dimmed,
    hiddenLayers,
    contours,
    contourStep,
    planNear,
    annotation,
    annotationTrue,
    modelEdges,
    groundModel,
    snapping,
    longBeds,
    longGround,
    pviDrag,
    sightLane,
    sectionTexts,
    benchTexts,
    volumeWay,
    lower,
    folds,
    inspectorOpen,
    tableOpen,
  }
})
