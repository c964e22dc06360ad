/** Guide lines of the long section: made by clicks, changed by numbers, and what the pointer snaps to. */
import { computed, ref, watch } from 'vue'
import type { Guide } from '@/api/types'
import { formatGrade } from '@/lib/format'
import { sayLength } from '@/lib/units'
import { useUi } from '@/stores/ui'
import type { Workbench } from './workbench'

/** `profile` makes a guide of every grade of the design as it is now. */
export type GuideKind = Guide['kind'] | 'profile'
export const GUIDE_WAYS: [GuideKind, string, string][] = [
  ['grade', 'by point and gradient', 'Click the point it goes through.'],
  ['points', 'by two points', 'Click two points.'],
  ['parallel', 'parallel', 'Click above a line to raise it, below to lower it.'],
  ['profile', 'whole profile', 'Type by how much and press Enter: + raises. They stay when the profile changes.'],
]
export interface Place {
  s: number
  z: number
}
/** A line that a guide may lie parallel to: station, level, grade, and where it runs. */
export interface Straight {
  id: string
  line: [number, number, number]
  from: number
  to: number
}

export const levelOn = ([s0, z0, g]: readonly [number, number, number], s: number) => z0 + g * (s - s0)

/** The next free name: A, B, …, Z, A1, B1, … */
export function nextName(taken: readonly string[]): string {
  for (let round = 0; ; round++)
    for (let i = 0; i < 26; i++) {
      const name = String.fromCharCode(65 + i) + (round || '')
      if (!taken.includes(name)) return name
    }
}

export function useGuides(bench: Workbench) {
  const ui = useUi()
  const guides = computed(() => bench.design.value?.guides ?? [])
  const shown = computed(() => guides.value.filter((g) => !g.hidden))
  const crossings = computed(() => bench.design.value?.crossings ?? [])
  const kind = ref<GuideKind>('grade')
  const grade = ref(0.02)
  const rise = ref(1)
  const first = ref<Place | null>(null)
  const active = computed(() => ui.tool === 'guide')
  watch([active, kind], () => (first.value = null))

  const straights = computed<Straight[]>(() => {
    const pvis = bench.design.value?.pvis ?? []
    const own = pvis.slice(0, -1).map((p, i) => ({
      id: `after-${p.id}`,
      line: [p.station, p.elevation, p.grade_out ?? 0] as [number, number, number],
      from: p.station,
      to: pvis[i + 1]!.station,
    }))
    return [
      ...shown.value.map((g) => ({ id: g.id, line: g.line, from: g.within?.[0] ?? -Infinity, to: g.within?.[1] ?? Infinity })),
      ...own,
    ]
  })
  /** The straight line nearest above or below a place, within a tolerance in m of level. */
  function straightAt(at: Place, within: number): Straight | null {
    let best: Straight | null = null,
      least = within
    for (const t of straights.value) {
      const off = Math.abs(levelOn(t.line, at.s) - at.z)
      if (at.s >= t.from && at.s <= t.to && off <= least) [best, least] = [t, off]
    }
    return best
  }
  /**
   * A crossing, an end of the profile or a PVI nearest to the pointer with its exact values; else a guide near it, else the
   * place itself. Scales are px per m across and up; `apart` is the PVI that is placed and so catches nothing.
   */
  function snap(at: Place, across: number, up: number, apart: number | null = null, tolerance = 9): Place & { exact: boolean } {
    let best: Place | null = null,
      least = tolerance
    function near(s: number, z: number) {
      const d = Math.hypot((s - at.s) * across, (z - at.z) * up)
      if (d <= least) [best, least] = [{ s, z }, d]
    }
    for (const [, , s, z] of crossings.value) near(s, z)
    for (const p of bench.design.value?.pvis ?? []) if (p.id !== apart) near(p.station, p.elevation)
    if (best) return { ...(best as Place), exact: true }
    for (const g of shown.value) {
      if (g.within && (at.s < g.within[0] || at.s > g.within[1])) continue
      const z = levelOn(g.line, at.s)
      if (Math.abs(z - at.z) * up <= 5) return { s: at.s, z, exact: false }
    }
    return { ...at, exact: false }
  }
  /** The guide that a click here would make, for the picture. */
  function draft(at: Place | null, within: number): { line: [number, number, number]; text: string } | null {
    if (!active.value || !at || kind.value === 'profile') return null
    if (kind.value === 'grade') return { line: [at.s, at.z, grade.value], text: formatGrade(grade.value) }
    if (kind.value === 'points') {
      const f = first.value
      if (!f || Math.abs(at.s - f.s) < 0.01) return null
      const g = (at.z - f.z) / (at.s - f.s)
      return { line: [f.s, f.z, g], text: formatGrade(g) }
    }
    const parent = straightAt(at, within)
    if (!parent) return null
    const by = at.z >= levelOn(parent.line, at.s) ? Math.abs(rise.value) : -Math.abs(rise.value)
    return {
      line: [parent.line[0], parent.line[1] + by, parent.line[2]],
      text: `${by >= 0 ? 'raised' : 'lowered'} ${sayLength(Math.abs(by), 3)}`,
    }
  }
  async function click(at: Place, within: number) {
    const id = nextName(guides.value.map((g) => g.id))
    if (kind.value === 'grade') return put([...rows(), { id, kind: 'grade', station: at.s, level: at.z, grade: grade.value }])
    if (kind.value === 'points') {
      const f = first.value
      if (!f) return void (first.value = at)
      first.value = null
      return put([...rows(), { id, kind: 'points', first: [f.s, f.z], second: [at.s, at.z] }])
    }
    if (kind.value === 'profile') return
    const parent = straightAt(at, within)
    if (!parent) return
    const by = at.z >= levelOn(parent.line, at.s) ? Math.abs(rise.value) : -Math.abs(rise.value)
    return put([...rows(), { id, kind: 'parallel', of: parent.id, rise: by }])
  }
  /** Every grade of the design as it is now, raised by so much, as a guide between its PVIs. */
  async function besideProfile(by: number) {
    const pvis = bench.design.value?.pvis ?? []
    const all = rows()
    for (const [i, p] of pvis.slice(0, -1).entries()) {
      const within: [number, number] = [p.station, pvis[i + 1]!.station]
      const id = nextName(all.map((g) => g.id))
      all.push({ id, kind: 'grade', station: p.station, level: p.elevation + by, grade: p.grade_out ?? 0, within })
    }
    await put(all)
  }
  /** Of a line by two points the first one back; whether there was one. */
  function takeBack(): boolean {
    const any = first.value !== null
    first.value = null
    return any
  }
  type Row = Omit<Guide, 'line'>
  const rows = (): Row[] => guides.value.map((g) => Object.fromEntries(Object.entries(g).filter(([k]) => k !== 'line')) as unknown as Row)
  const put = (next: Row[]) => bench.put('road', ui.roadId!, 'guides', { guides: next }, { quiet: true })
  const change = (id: string, values: Partial<Row>) => put(rows().map((r) => (r.id === id ? { ...r, ...values } : r)))
  const clear = () => put([])
  const drop = (id: string) => put(rows().filter((r) => r.id !== id))
  return { guides, shown, crossings, kind, grade, rise, first, active, snap, draft, click, besideProfile, takeBack, change, drop, clear }
}
export type Guides = ReturnType<typeof useGuides>
