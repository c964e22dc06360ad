/** What lies between ground and design: cut above, fill below, split where the lines cross. */

type Row = readonly [number, number | null, ...number[]]
type Point = (at: number, level: number) => string

/** Levels of a polyline at places that only grow, coming from before and going on after: two where it steps upright. Walks along it once.
 * `null` outside and over gaps. */
function walker(rows: readonly Row[]): (s: number) => [number | null, number | null] {
  let i = 0
  return (s) => {
    while (i + 1 < rows.length && rows[i + 1]![0] < s) i++
    let k = i // the last row at this place or before it
    while (k + 1 < rows.length && rows[k + 1]![0] <= s) k++
    const a = rows[i],
      b = rows[i + 1]
    if (!a || s < a[0] || s > rows.at(-1)![0]) return [null, null]
    if (s === a[0]) return [a[1], rows[k]![1]] // the first place
    if (!b) return [null, null]
    if (s === b[0] && b[1] !== null) return [b[1], rows[k]![1]] // at the edge of a gap the level is known
    if (a[1] === null || b[1] === null) return [null, null]
    const level = a[1] + ((s - a[0]) / (b[0] - a[0])) * (b[1] - a[1])
    return [level, level]
  }
}

/** Both lines' places in one increasing row, each once. */
function mergedPlaces(ground: readonly Row[], design: readonly Row[]): number[] {
  const [first, last] = [design[0]![0], design.at(-1)![0]]
  const out: number[] = []
  let i = 0,
    j = 0
  while (i < ground.length || j < design.length) {
    const s = Math.min(ground[i]?.[0] ?? Infinity, design[j]?.[0] ?? Infinity)
    while (i < ground.length && ground[i]![0] <= s) i++
    while (j < design.length && design[j]![0] <= s) j++
    if (s >= first && s <= last) out.push(s)
  }
  return out
}

/** SVG paths of cut and fill, one closed loop a stretch; either line may step upright, by two rows at one place. `point` turns a
 * place along the lines and a level into screen text "x y". */
export function cutFillPaths(ground: readonly Row[], design: readonly Row[], point: Point): { cut: string; fill: string } {
  const paths = { cut: '', fill: '' }
  if (design.length < 2) return paths
  const [onGround, onDesign] = [walker(ground), walker(design)]
  let above: string[] = [],
    below: string[] = []
  let kind: 'cut' | 'fill' | null = null
  const close = () => {
    if (kind && above.length > 1) paths[kind] += `M${above.join('L')}L${below.reverse().join('L')}Z`
    above = []
    below = []
    kind = null
  }
  let before: { s: number; g: number; d: number } | null = null
  const add = (s: number, g: number, d: number) => {
    above.push(point(s, g))
    below.push(point(s, d))
  }
  for (const s of mergedPlaces(ground, design)) {
    const [g, gAfter] = onGround(s)
    const [d, dAfter] = onDesign(s)
    if (g === null || d === null) {
      close()
      before = null
      continue
    }
    if (before) {
      const [p, q] = [before.g - before.d, g - d]
      if (p * q < 0) {
        const m = before.s + ((s - before.s) * p) / (p - q)
        const level = before.d + ((m - before.s) / (s - before.s)) * (d - before.d)
        if (!kind) add(before.s, before.g, before.d)
        kind = p > 0 ? 'cut' : 'fill'
        above.push(point(m, level)) // one point, where the lines meet, ends the loop and starts the next
        close()
        above.push(point(m, level))
        kind = q > 0 ? 'cut' : 'fill'
      } else if (p + q !== 0) {
        const now = p + q > 0 ? 'cut' : 'fill'
        if (kind && kind !== now) close()
        if (!kind) add(before.s, before.g, before.d)
        kind = now
      } else close()
      if (kind) add(s, g, d)
    }
    if (gAfter === null || dAfter === null) {
      close()
      before = null
      continue
    }
    if (gAfter !== g || dAfter !== d) {
      if (kind && (gAfter > dAfter ? 'cut' : gAfter < dAfter ? 'fill' : null) === kind) add(s, gAfter, dAfter)
      else close()
    }
    before = { s, g: gAfter, d: dAfter }
  }
  close()
  return paths
}
