/**
 * Chainage equations: from a place on, the count is ahead (or behind) by a jump. Stations are distances that go on; chainages are what
 * people read.
 */

/** station m, jump m; by increasing station */
export type Equations = readonly (readonly [number, number])[]

/** Chainage at a station; at an equation itself the count that is left. */
export const countedAt = (station: number, equations: Equations) =>
  equations.reduce((sum, [at, jump]) => (at < station - 1e-9 ? sum + jump : sum), station)

/** Every station at which a chainage is counted: none in a gap, two where counts overlap. */
export function stationsOf(chainage: number, equations: Equations, limits: readonly [number, number]): number[] {
  const starts = [-Infinity, ...equations.map(([at]) => at)]
  let sum = 0
  const out: number[] = []
  starts.forEach((from, i) => {
    if (i) sum += equations[i - 1]![1]
    const station = chainage - sum
    const to = starts[i + 1] ?? Infinity
    if (station >= Math.max(from, limits[0]) - 1e-9 && station <= Math.min(to, limits[1]) + 1e-9) out.push(station)
  })
  return out
}

/** Stations between limits whose chainages are multiples of a step, as people read them; at most 20 000. */
export function roundStations(limits: readonly [number, number], step: number, equations: Equations): number[] {
  const [a, b] = limits
  if (!(step > 0) || (b - a) / step > 20_000) return []
  const edges = [a, ...equations.map(([at]) => at).filter((at) => at > a && at < b), b]
  const out: number[] = []
  for (let i = 0; i + 1 < edges.length; i++) {
    const [from, to] = [edges[i]!, edges[i + 1]!]
    const ahead = equations.reduce((sum, [at, jump]) => (at <= from + 1e-9 ? sum + jump : sum), 0)
    for (let k = Math.ceil((from + ahead) / step - 1e-9) + 0; k * step - ahead <= to + 1e-9; k++) {
      const s = k * step - ahead
      if (!out.length || s > out[out.length - 1]! + 1e-6) out.push(s)
    }
  }
  return out
}
