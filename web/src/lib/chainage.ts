/** Chainage equations: from a place on, the count is ahead (or behind) by a jump. Stations are distances that go on; chainages are what people read. */

/** station m, jump m; by increasing station */
export type Equations = readonly (readonly [number, number])[]

/** Chainage at a station; at an equation itself the count that is left. */
export const countedAt = (station: number, equations: Equations) => equations.reduce((sum, [at, jump]) => (at < station - 1e-9 ? sum + jump : sum), station)

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
