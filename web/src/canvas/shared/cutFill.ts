/** What lies between ground and design: cut above, fill below, split where the lines cross. */
import { levelAt } from './alongLine'

type Row = readonly [number, number | null, ...number[]]

/** SVG paths of cut and fill; `point` turns a place along the lines and a level into screen text "x y". */
export function cutFillPaths(ground: readonly Row[], design: readonly Row[], point: (at: number, level: number) => string): { cut: string; fill: string } {
  const paths = { cut: '', fill: '' }
  if (design.length < 2) return paths
  const [first, last] = [design[0]![0], design.at(-1)![0]]
  const places = [...new Set([...ground, ...design].map((row) => row[0]))].filter((s) => s >= first && s <= last).sort((a, b) => a - b)
  const levels = places.map((s) => [levelAt(ground, s), levelAt(design, s)] as const)
  for (let i = 0; i + 1 < places.length; i++) {
    const [a, b] = [places[i]!, places[i + 1]!]
    const [[ga, da], [gb, db]] = [levels[i]!, levels[i + 1]!]
    if (ga === null || gb === null || da === null || db === null) continue
    const [p, q] = [ga - da, gb - db]
    const kind = (difference: number) => (difference > 0 ? 'cut' : 'fill')
    if (p * q < 0) {
      const m = a + ((b - a) * p) / (p - q)
      const level = da + ((m - a) / (b - a)) * (db - da)
      paths[kind(p)] += `M${point(a, ga)}L${point(m, level)}L${point(a, da)}Z`
      paths[kind(q)] += `M${point(m, level)}L${point(b, gb)}L${point(b, db)}Z`
    } else if (p + q !== 0) paths[kind(p + q)] += `M${point(a, ga)}L${point(b, gb)}L${point(b, db)}L${point(a, da)}Z`
  }
  return paths
}
