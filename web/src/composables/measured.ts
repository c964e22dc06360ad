/** Layers of received surveys that may have been measured along a line, for lists. */
import { formatNumber } from '@/lib/format'
import type { Workbench } from './workbench'

export interface MeasuredLayer {
  id: string
  name: string
  road: string
  isLine: boolean
  survey: number
  layer: string
  /** how many lines it holds */
  lines: number
}
/** A layer, and one line of it, counted from 0, where one is picked out. */
export interface Measured {
  survey: number
  layer: string
  line: number | null
}

/** `id` is the survey's number and the layer's code with a bar between; `road` is a name for a road made of it. */
export function measuredLayers(bench: Workbench): MeasuredLayer[] {
  const surveys = new Map((bench.project.value?.surfaces ?? []).flatMap((s) => s.sources).map((s) => [s.id, s]))
  return [...surveys.values()].flatMap((s) =>
    s.layers.map((la) => ({
      id: `${s.id}|${la.code}`,
      name: `${s.name}: ${la.code || la.type} (${formatNumber(la.vertices, 0)})`,
      isLine: la.type !== 'point',
      survey: s.id,
      layer: la.code,
      lines: la.type !== 'point' ? la.count : 0,
      road: (la.code || s.name).toLowerCase().replace(/^./, (c) => c.toUpperCase()),
    })),
  )
}
