// Directions and angles in few words.

export const side = (az: number) => (Math.abs(az) < 0.5 ? 'on the axis' : `${Math.abs(az).toFixed(0)}° ${az > 0 ? 'right' : 'left'}`)
export const up = (el: number) => (Math.abs(el) < 0.5 ? 'level' : `${Math.abs(el).toFixed(0)}° ${el > 0 ? 'up' : 'down'}`)
export const few = (v: number) => (v < 10 ? v.toFixed(1) : v.toFixed(0))
/** To a tenth; nothing is written with a sign before it. */
export const tenths = (v: number) => v.toFixed(1).replace(/^-0\.0$/, '0.0')
/** With a capital at its head. */
export const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1)
