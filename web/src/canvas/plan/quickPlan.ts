/** A quick plan of points, coloured by height: what a file holds, before it is brought in. */

const BANDS = ['#7f9a63', '#a3a972', '#c0a86f', '#b98d56', '#96693c']
const ODD = '#a8322a'

/** Draws points (easting, northing, level). Robust limits, so that one bad point neither hides the rest nor itself. */
export function drawQuickPlan(canvas: HTMLCanvasElement, points: readonly (readonly [number, number, number])[]) {
  const pen = canvas.getContext('2d')
  if (!pen) return
  pen.clearRect(0, 0, canvas.width, canvas.height)
  if (points.length) drawPoints(pen, points, canvas.width, canvas.height)
}

export function drawPoints(
  pen: { fillStyle: unknown; fillRect: (x: number, y: number, w: number, h: number) => void },
  points: readonly (readonly [number, number, number])[],
  width: number,
  height: number,
) {
  const sorted = ([0, 1, 2] as const).map((i) => points.map((q) => q[i]).sort((a, b) => a - b))
  const at = (i: number, share: number) => sorted[i]![Math.floor(share * (points.length - 1))]!
  const [e0, e1, n0, n1] = [at(0, 0.005), at(0, 0.995), at(1, 0.005), at(1, 0.995)]
  const scale = Math.min((width - 20) / Math.max(e1 - e0, 1), (height - 20) / Math.max(n1 - n0, 1))
  for (const [e, n, z] of points) {
    const share = (z - at(2, 0.02)) / Math.max(at(2, 0.98) - at(2, 0.02), 0.01)
    pen.fillStyle = share < -0.5 || share > 1.5 ? ODD : BANDS[Math.min(Math.max(Math.floor(share * 5), 0), 4)]!
    pen.fillRect(width / 2 + (e - (e0 + e1) / 2) * scale - 1, height / 2 - (n - (n0 + n1) / 2) * scale - 1, 2, 2)
  }
}
