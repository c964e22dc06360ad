import { describe, expect, it } from 'vitest'
import { snapTo, type SnapLines } from './snap'

// an L of two legs from (1000, 2000), and a line across its first leg
const lines: SnapLines = {
  origin: [1000, 2000],
  vertices: new Float32Array([0, 0, 100, 0, 100, 80, 50, -20, 50, 30]),
  starts: [0, 3, 5],
  stride: 2,
}

describe('snapping', () => {
  it('catches ends and vertices before all else', () => {
    expect(snapTo([lines], 1001, 2001, 3)).toEqual({ kind: 'end', e: 1000, n: 2000 })
    expect(snapTo([lines], 1099, 2001, 3)).toEqual({ kind: 'vertex', e: 1100, n: 2000 })
  })
  it('catches a crossing exactly', () => {
    expect(snapTo([lines], 1051, 2001.5, 3)).toEqual({ kind: 'crossing', e: 1050, n: 2000 })
  })
  it('catches the foot square from the last place, and the nearest place otherwise', () => {
    expect(snapTo([lines], 1101, 2041, 3, { e: 1020, n: 2040 })).toEqual({ kind: 'perpendicular', e: 1100, n: 2040 })
    expect(snapTo([lines], 1101, 2045, 3)).toEqual({ kind: 'nearest', e: 1100, n: 2045 })
  })
  it('prolongs the line that the last place ends', () => {
    expect(snapTo([lines], 1101, 2150, 3, { e: 1100, n: 2080 })).toEqual({ kind: 'prolonged', e: 1100, n: 2150 })
  })
  it('tells the vertex at which the leg touches a bend', () => {
    // an arc of radius 100 m around (0, 0), a vertex every 5 degrees: from (0, -200) the tangents touch at 30 degrees below the axis
    const arc = Array.from({ length: 25 }, (_, i) => (i - 12) * 5).flatMap((d) => [
      100 * Math.cos((d * Math.PI) / 180),
      100 * Math.sin((d * Math.PI) / 180),
    ])
    const bend: SnapLines = { origin: [0, 0], vertices: new Float64Array(arc), starts: [0, 25], stride: 2 }
    const from = { e: 0, n: -200 }
    const found = [-45, -40, -35, -30, -25, -20].map(
      (d) => snapTo([bend], 100 * Math.cos((d * Math.PI) / 180), 100 * Math.sin((d * Math.PI) / 180), 2, from)?.kind,
    )
    expect(found).toEqual(['vertex', 'vertex', 'vertex', 'tangent', 'vertex', 'vertex'])
  })
  it('catches nothing out of reach, and nothing on hidden lines', () => {
    expect(snapTo([lines], 1200, 2200, 3)).toBeNull()
    expect(snapTo([{ ...lines, hidden: () => true }], 1001, 2001, 3)).toBeNull()
  })
})
