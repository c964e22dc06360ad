import { describe, expect, it } from 'vitest'
import { makeMesh, paintTerrain } from './terrain'

// a 10 m square of two triangles, rising to the east
const square = makeMesh(
  [412_000, 687_000],
  new Float32Array([0, 0, 50, 10, 0, 60, 10, 10, 60, 0, 10, 50]),
  new Uint32Array([0, 1, 2, 0, 2, 3]),
  new Uint32Array([]),
  [412_000, 687_000, 412_010, 687_010],
  [50, 60],
)

describe('painting terrain', () => {
  it('paints exactly the place of the triangles, without a seam, and nothing else', () => {
    const pixels = new Uint8ClampedArray(40 * 40 * 4)
    paintTerrain(square, { e: 412_005, n: 687_005, scale: 2, width: 40, height: 40 }, pixels, 40, 40)
    let filled = 0
    for (let y = 0; y < 40; y++) for (let x = 0; x < 40; x++) if (pixels[(y * 40 + x) * 4 + 3]) filled++
    expect(filled).toBe(20 * 20)
    expect(pixels[(5 * 40 + 5) * 4 + 3]).toBe(0)
  })
  it('gives higher ground another colour', () => {
    const pixels = new Uint8ClampedArray(40 * 40 * 4)
    paintTerrain(square, { e: 412_005, n: 687_005, scale: 2, width: 40, height: 40 }, pixels, 40, 40)
    const west = [...pixels.slice((20 * 40 + 11) * 4, (20 * 40 + 11) * 4 + 3)]
    const east = [...pixels.slice((20 * 40 + 28) * 4, (20 * 40 + 28) * 4 + 3)]
    expect(west).not.toEqual(east)
  })
})
