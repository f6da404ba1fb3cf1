// Figures as people write them: what is typed becomes the unit of the field, and back.

/** A figure for a field. */
export function show(value: number, unit: string): string {
  if (!Number.isFinite(value)) return '–'
  switch (unit) {
    case 's':
      return shutter(value)
    case 'f':
      return value >= 10 ? value.toFixed(0) : value.toFixed(1)
    case 'iso':
    case 'joules':
    case 'px':
      return value.toFixed(0)
    case 'lux':
    case 'lux s':
      return value >= 100 ? value.toFixed(0) : Number(value.toPrecision(3)).toString()
    case 'deg':
      return value >= 10 ? value.toFixed(0) : value.toFixed(1)
    case 'stops':
    case 'power':
      return (Math.abs(value) < 0.005 ? 0 : value).toFixed(2).replace('-', '−')
    case 'm':
      return value < 0.1 ? value.toFixed(3) : value.toFixed(2)
    default:
      return Number(value.toPrecision(3)).toString().replace('-', '−')
  }
}

/** Whether lengths are told in feet and inches, as a question to the server has it. */
export const inFeet = () => localStorage.getItem('units') === 'ft' || undefined

/** A difference with its sign; nothing has none. */
export function difference(v: number, unit: string): string {
  const t = v.toFixed(unit === '°' || unit === 'mired' ? 0 : 2)
  return Number(t) === 0 ? t.replace('-', '') : `${v > 0 && unit !== '×' ? '+' : ''}${t}`.replace('-', '−')
}

/** Seconds as on a camera. */
export function shutter(seconds: number): string {
  if (seconds < 0.3) {
    const d = 1 / seconds
    return `1/${d >= 10 ? Math.round(d) : d.toFixed(1)}`
  }
  return `${Number(seconds.toPrecision(3))}`
}

/** What was typed, in the unit of the field: fractions, commas, feet and inches. `null` if it is no number. */
export function read(text: string, unit: string): number | null {
  const t = text.trim().replace(',', '.').replace('−', '-')
  if (unit === 'm') {
    const feet = /^(\d+(?:\.\d+)?)\s*(?:'|ft)\s*(?:(\d+(?:\.\d+)?)\s*(?:"|in)?)?$/.exec(t)
    if (feet) return (Number(feet[1]) + Number(feet[2] ?? 0) / 12) * 0.3048
    const small = /^(\d+(?:\.\d+)?)\s*cm$/.exec(t)
    if (small) return Number(small[1]) / 100
  }
  const parts = /^(-?\d+(?:\.\d+)?)\s*\/\s*(\d+(?:\.\d+)?)$/.exec(t)
  const v = parts ? Number(parts[1]) / Number(parts[2]) : Number(t.replace(/^f\//, '').replace(/[a-z°%]+$/i, '').trim())
  // a word alone is no number, and is not nought either
  if (!/\d/.test(t) || !Number.isFinite(v)) return null
  return v
}

const WORDS: Record<string, string> = { m: 'm', mm: 'mm', s: 's', deg: '°', lux: 'lux', 'lux s': 'lux s', stops: 'stops', power: 'stops', joules: 'J', percent: '%', px: 'px', 'm/s': 'm/s' }
/** The unit beside a figure. */
export const word = (unit: string): string => WORDS[unit] ?? ''

/** A figure with its unit; f-numbers and ISO carry theirs before them. */
export function full(value: number, unit: string): string {
  if (unit === 'f') return `f/${show(value, unit)}`
  if (unit === 'iso') return `ISO ${show(value, unit)}`
  const w = word(unit)
  return w === '°' || w === '' ? `${show(value, unit)}${w}` : `${show(value, unit)} ${w}`
}
