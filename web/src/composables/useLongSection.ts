/** The long section's scales: stations across, levels up, both linear; the exaggeration is chosen, or found so that all fits. */
import { scaleLinear } from 'd3-scale'
import { computed, ref, watch, type Ref } from 'vue'
import type { Workbench } from './workbench'
import { units } from '@/lib/units'

export const MARGIN = { left: 58, right: 12, top: 12, band: 17 }

/** `above` and `below` are px that something else has over and under the plot. */
export function useLongSection(
  bench: Workbench,
  size: Ref<{ width: number; height: number }>,
  bands: number,
  room: Ref<{ above: number; below: number }> = ref({ above: 0, below: 0 }),
) {
  const domain = ref<[number, number]>([0, 1])
  /** A return is a few metres long and much higher over the ground than it rises: it is shown as it fits, without the ground. */
  const short = computed(() => bench.road.value?.course.kind === 'return')
  const chosen = ref<Record<'road' | 'return', number | 'fit'>>({ road: 10, return: 'fit' })
  const exaggeration = computed({
    get: () => chosen.value[short.value ? 'return' : 'road'],
    set: (to) => (chosen.value[short.value ? 'return' : 'road'] = to),
  })
  const plot = computed(() => {
    const bottom = size.value.height - bands * MARGIN.band - 28 - room.value.below
    const top = MARGIN.top + room.value.above
    return {
      x0: MARGIN.left,
      x1: Math.max(size.value.width - MARGIN.right, MARGIN.left + 10),
      y0: top,
      y1: Math.max(bottom, top + 20),
    }
  })
  watch(
    bench.limits,
    ([a, b], before) => {
      const all = !before || (domain.value[0] <= before[0] + 1e-6 && domain.value[1] >= before[1] - 1e-6)
      if (b > a && (all || domain.value[1] <= domain.value[0] + 1)) domain.value = [a, b]
    },
    { immediate: true },
  )

  const x = computed(() => scaleLinear(domain.value, [plot.value.x0, plot.value.x1]))
  /** Least and greatest level in the visible range. */
  const spread = computed<[number, number]>(() => {
    const [a, b] = domain.value
    let low = Infinity,
      high = -Infinity
    const see = (s: number, z: number | null) => {
      if (z === null || s < a || s > b) return
      low = Math.min(low, z)
      high = Math.max(high, z)
    }
    const d = bench.saved.value ?? bench.design.value // the scale rests while something is dragged
    if (!short.value) d?.ground.forEach(([s, z]) => see(s, z))
    d?.levels?.points.forEach(([s, z]) => see(s, z))
    d?.pvis.forEach((p) => see(p.station, p.elevation))
    return low < high ? [low, high] : Number.isFinite(low) ? [low - 5, high + 5] : [0, 10]
  })
  /** Least and greatest level of the design in the visible range. */
  const built = computed<[number, number] | null>(() => {
    const [a, b] = domain.value
    const own = ((bench.saved.value ?? bench.design.value)?.levels?.points ?? []).filter(([s]) => s >= a && s <= b).map(([, z]) => z)
    return own.length ? [Math.min(...own), Math.max(...own)] : null
  })
  const y = computed(() => {
    const [low, high] = spread.value
    const { x0, x1, y0, y1 } = plot.value
    const metresPerPixel = (domain.value[1] - domain.value[0]) / (x1 - x0)
    const fitted = ((high - low) * 1.16 + (short.value ? 0.1 : 1)) / (y1 - y0)
    const perPixel = exaggeration.value === 'fit' ? fitted : metresPerPixel / exaggeration.value
    const [first, last] = built.value ?? [low, high]
    const fits = (high - low) * 1.16 <= perPixel * (y1 - y0)
    const middle = fits ? (low + high) / 2 : (first + last) / 2 // where not all has room, the design has
    const half = (perPixel * (y1 - y0)) / 2
    return scaleLinear([middle - half, middle + half], [y1, y0])
  })
  /** How much steeper the picture is than the road. */
  const steeper = computed(() => {
    const across = (domain.value[1] - domain.value[0]) / (plot.value.x1 - plot.value.x0)
    const [low, high] = y.value.domain() as [number, number]
    return across / ((high - low) / (plot.value.y1 - plot.value.y0))
  })
  function zoom(at: number, factor: number) {
    const [a, b] = domain.value
    const [low, high] = bench.limits.value
    const room = Math.max(high - low, 10)
    const span = Math.min(Math.max((b - a) * factor, 20), room * 1.1)
    const share = (at - a) / (b - a)
    domain.value = [at - share * span, at + (1 - share) * span]
    if (span >= room) domain.value = [low, high]
  }
  function pan(metres: number) {
    domain.value = [domain.value[0] + metres, domain.value[1] + metres]
  }
  function showAll() {
    domain.value = [...bench.limits.value]
  }
  return { domain, exaggeration, plot, x, y, steeper, zoom, pan, showAll }
}

/** Interval of the bands, m: round in the project's units, columns at least 56 px apart. */
export function bandInterval(metresPerPixel: number): number {
  const { metre } = units.value
  return metre * ([1, 2, 5, 10, 20, 25, 50, 100, 200, 250, 500, 1000, 2000].find((i) => (i * metre) / metresPerPixel >= 56) ?? 5000)
}
