/** The units a project is read and typed in. Everything inside is metres and km/h; only what a person sees or types is converted. */
import { scaleLinear, type ScaleLinear } from 'd3-scale'
import { shallowRef } from 'vue'
import { formatNumber } from './format'

export interface Units {
  name: 'm' | 'ft' | 'us-ft'
  length: string
  /** metres in one unit of length */
  metre: number
  area: string
  volume: string
  /** m³ in one unit of volume */
  cube: number
  land: string
  /** m² in one unit of land */
  field: number
  far: string
  /** metres in one unit of long distances */
  way: number
  speed: string
  /** km/h in one unit of speed */
  kmh: number
}
const feet = (name: 'ft' | 'us-ft', metre: number): Units => ({
  name,
  length: 'ft',
  metre,
  area: 'ft²',
  volume: 'yd³',
  cube: 27 * metre ** 3,
  land: 'ac',
  field: 43_560 * metre ** 2,
  far: 'mi',
  way: 1609.344,
  speed: 'mph',
  kmh: 1.609344,
})
export const UNITS: Record<Units['name'], Units> = {
  m: {
    name: 'm',
    length: 'm',
    metre: 1,
    area: 'm²',
    volume: 'm³',
    cube: 1,
    land: 'ha',
    field: 10_000,
    far: 'km',
    way: 1000,
    speed: 'km/h',
    kmh: 1,
  },
  ft: feet('ft', 0.3048),
  'us-ft': feet('us-ft', 1200 / 3937),
}

/** Those of the open project; metres outside of one. */
export const units = shallowRef<Units>(UNITS.m)

type Value = number | null | undefined
const per = (v: Value, unit: number) => (v === null || v === undefined ? v : v / unit)

/** A length without its unit, for columns and axes that say it once. */
export const bareLength = (v: Value, decimals: number, sign = false) => formatNumber(per(v, units.value.metre), decimals, sign)
export const bareArea = (v: Value, decimals: number) => formatNumber(per(v, units.value.metre ** 2), decimals)
export const bareVolume = (v: Value, decimals: number, sign = false) => formatNumber(per(v, units.value.cube), decimals, sign)
export const sayLength = (v: Value, decimals: number, sign = false) => `${bareLength(v, decimals, sign)} ${units.value.length}`
/** A small length: millimetres, or thousandths of a foot. */
export const fineUnit = () => (units.value.metre === 1 ? 'mm' : units.value.length)
export const bareFine = (v: Value, decimals = 0) =>
  units.value.metre === 1 ? formatNumber(per(v, 0.001), decimals) : bareLength(v, decimals + 3)
export const sayFine = (v: Value, decimals = 0) => `${bareFine(v, decimals)} ${fineUnit()}`
export const sayArea = (v: Value, decimals: number) => `${bareArea(v, decimals)} ${units.value.area}`
export const sayVolume = (v: Value, decimals: number, sign = false) => `${bareVolume(v, decimals, sign)} ${units.value.volume}`
export const sayLand = (v: Value, decimals = 2) => `${formatNumber(per(v, units.value.field), decimals)} ${units.value.land}`
export const sayFar = (v: Value, decimals = 1) => `${formatNumber(per(v, units.value.way), decimals)} ${units.value.far}`

/** What a number in SI is divided by where a field names this unit, and how the unit is written. */
export function inUnits(unit: string): { per: number; unit: string } {
  const u = units.value
  const known: Record<string, [number, string]> = {
    m: [u.metre, u.length],
    'm²': [u.metre ** 2, u.area],
    'm³': [u.cube, u.volume],
    'km/h': [u.kmh, u.speed],
    'm/%': [u.metre, `${u.length}/%`],
  }
  const [by, text] = known[unit] ?? [1, unit]
  return { per: by, unit: text }
}

/** Round values of an axis in the project's units, in metres, with how they are written. */
export function roundTicks(scale: ScaleLinear<number, number>, count: number, sign = false): { at: number; text: string }[] {
  const { metre } = units.value
  const [a, b] = scale.domain() as [number, number]
  const ticks = scaleLinear([a / metre, b / metre], scale.range()).ticks(count)
  const step = ticks.length > 1 ? ticks[1]! - ticks[0]! : 1
  const decimals = Math.max(0, -Math.floor(Math.log10(step) + 1e-9)) // all alike, and so many that no two read the same
  return ticks.map((t) => ({ at: t * metre, text: formatNumber(t, decimals, sign) }))
}
