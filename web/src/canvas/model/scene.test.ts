import { describe, expect, it } from 'vitest'
import type { Packed } from '@/api/client'
import { builtStrips, pavedPieces } from './scene'

/** A road of two stretches with a gap: sections 0 to 2 and 3 to 4; the pavement of the first is widened by a piece of its own. */
const lines: [string, string, number, number[]][] = [
  ['', 'centre', 0, [0, 0, 9, 10, 0, 9, 20, 0, 9]],
  ['left', 'paved', 0, [0, 3, 9, 10, 3, 9]],
  ['left', 'paved', 1, [10, 4, 9, 20, 4, 9]],
  ['', 'centre', 3, [50, 0, 9, 60, 0, 9]],
  ['left', 'paved', 3, [50, 3, 9, 60, 3, 9]],
  ['left', 'toe', 3, [50, 8, 7, 60, 8, 7]],
]
const picture = {
  header: {
    roles: lines.map(([side, role, first]) => [side, role, first]),
    named: { centre: 'centre', paved: 'paved', toe: 'toe' },
  },
  floats: { edges: new Float32Array(lines.flatMap((l) => l[3])) },
  ints: { edge_starts: Uint32Array.from([0, ...lines.map((_, i) => lines.slice(0, i + 1).reduce((n, l) => n + l[3].length / 3, 0))]) },
} as unknown as Packed

describe('the road in space', () => {
  it('is paved along every piece of its edges', () => {
    const pieces = pavedPieces(picture)
    const along = (points: Float32Array) => [...points].filter((_, i) => i % 3 === 0)
    expect(pieces.map((p) => [along(p.centre), along(p.edge)])).toEqual([
      [
        [0, 10],
        [0, 10],
      ],
      [
        [10, 20],
        [10, 20],
      ],
      [
        [50, 60],
        [50, 60],
      ],
    ])
  })

  it('is built between its toes along every stretch, and to its pavement or its line where it has none', () => {
    const built = builtStrips(picture, [100, 0])
    expect(built.map((s) => [...s.left].filter((_, i) => i % 3 === 1))).toEqual([
      [3, 4, 4],
      [8, 8],
    ])
    expect([...built[1]!.right].filter((_, i) => i % 3 === 0)).toEqual([150, 160])
  })
})
