/** Windows on paper: from numbers to pixels and back, nearest places on drawn lines, windows moved and narrowed. */

export interface Axis {
    low: number
    high: number
    scale: 'linear' | 'logarithmic' | 'signed-logarithmic'
    text: string | null
    threshold?: number
    reversed?: boolean
    dates?: string
    names?: string[]
}

export interface Panel {
    /** Left, top, width, height on the sheet at 96 px an inch. */
    bounds_px: [number, number, number, number]
    x: Axis
    y: Axis
    right?: Axis
    colours?: Axis
    line: number
    title?: string
    inset?: boolean
    true_scale?: boolean
    /** Of a window on space: its third axis, and how the box stands in it. */
    z?: Axis
    space?: {
        azimuth: number
        elevation: number
        proportions: [number, number, number]
        stretch: string
        factor: number
        origin: [number, number]
    }
}

export interface Place {
    x: number
    y: number
}

/** A box in pixels: left, top, width, height. */
export type Box = [number, number, number, number]

function unfolded(axis: Axis, value: number): number {
    if (axis.scale === 'logarithmic') return Math.log(value)
    if (axis.scale === 'signed-logarithmic') return Math.asinh(value / (axis.threshold ?? 1))
    return value
}

function folded(axis: Axis, value: number): number {
    if (axis.scale === 'logarithmic') return Math.exp(value)
    if (axis.scale === 'signed-logarithmic') return Math.sinh(value) * (axis.threshold ?? 1)
    return value
}

/** Where a number stands along an axis, 0 at its beginning and 1 at its end. */
export function share(axis: Axis, value: number): number {
    const [low, high] = [unfolded(axis, axis.low), unfolded(axis, axis.high)]
    const at = (unfolded(axis, value) - low) / (high - low)
    return axis.reversed ? 1 - at : at
}

export function valueAt(axis: Axis, at: number): number {
    const [low, high] = [unfolded(axis, axis.low), unfolded(axis, axis.high)]
    return folded(axis, low + (axis.reversed ? 1 - at : at) * (high - low))
}

export function toPx(panel: Panel, place: Place, right = false): Place {
    const [left, top, width, height] = panel.bounds_px
    const y = right && panel.right ? panel.right : panel.y
    return { x: left + share(panel.x, place.x) * width, y: top + (1 - share(y, place.y)) * height }
}

export function toNumbers(panel: Panel, px: Place, right = false): Place {
    const [left, top, width, height] = panel.bounds_px
    const y = right && panel.right ? panel.right : panel.y
    return { x: valueAt(panel.x, (px.x - left) / width), y: valueAt(y, 1 - (px.y - top) / height) }
}

export function within(box: Box, px: Place, margin = 0): boolean {
    const [left, top, width, height] = box
    return (
        px.x >= left - margin && px.x <= left + width + margin && px.y >= top - margin && px.y <= top + height + margin
    )
}

/** The window under a place: an inset before the panel that it stands in. */
export function panelAt(panels: Panel[], px: Place): number {
    for (let k = panels.length - 1; k >= 0; k--) {
        const panel = panels[k]
        if (panel && within(panel.bounds_px, px)) return k
    }
    return -1
}

/** A movement of the drawing under the hand: px' = scale · px + shift. */
export interface Movement {
    sx: number
    sy: number
    dx: number
    dy: number
}

export const STILL: Movement = { sx: 1, sy: 1, dx: 0, dy: 0 }

export function isStill(m: Movement): boolean {
    return Math.abs(m.sx - 1) < 1e-9 && Math.abs(m.sy - 1) < 1e-9 && Math.abs(m.dx) < 0.01 && Math.abs(m.dy) < 0.01
}

export function panned(m: Movement, dx: number, dy: number): Movement {
    return { ...m, dx: m.dx + dx, dy: m.dy + dy }
}

/** Larger by a factor about a place that stays where it is. */
export function zoomed(m: Movement, at: Place, fx: number, fy: number): Movement {
    return { sx: m.sx * fx, sy: m.sy * fy, dx: at.x + (m.dx - at.x) * fx, dy: at.y + (m.dy - at.y) * fy }
}

/** The movement that makes a box fill the window. */
export function filling(panel: Panel, box: Box): Movement {
    const [left, top, width, height] = panel.bounds_px
    const [sx, sy] = [width / box[2], height / box[3]]
    return { sx, sy, dx: left - box[0] * sx, dy: top - box[1] * sy }
}

export interface Window {
    x: [number, number]
    y: [number, number]
    right?: [number, number]
}

/** The window that is seen after a movement. */
export function moved(panel: Panel, m: Movement): Window {
    const [left, top, width, height] = panel.bounds_px
    const first = { x: (left - m.dx) / m.sx, y: (top + height - m.dy) / m.sy }
    const last = { x: (left + width - m.dx) / m.sx, y: (top - m.dy) / m.sy }
    const [a, b] = [toNumbers(panel, first), toNumbers(panel, last)]
    const found: Window = { x: [a.x, b.x], y: [a.y, b.y] }
    if (panel.right) found.right = [toNumbers(panel, first, true).y, toNumbers(panel, last, true).y]
    return found
}

/** Whether a window is one that can be drawn: finite, and not narrower than doubles can tell apart. */
export function drawable(window: Window): boolean {
    return [window.x, window.y, ...(window.right ? [window.right] : [])].every(([low, high]) => {
        const span = Math.abs(high - low)
        return Number.isFinite(low + high) && span > 1e-12 * Math.max(Math.abs(low), Math.abs(high)) && span < 1e12
    })
}

/** The nearest place on lines of straight pieces, and how far away it is. */
export function nearest(lines: Place[][], px: Place): { place: Place; away: number } | undefined {
    let best: { place: Place; away: number } | undefined
    for (const line of lines) {
        for (let k = 0; k < line.length; k++) {
            const a = line[k] as Place
            const b = line[k + 1]
            let place = a
            if (b) {
                const [dx, dy] = [b.x - a.x, b.y - a.y]
                const length = dx * dx + dy * dy
                const t = length ? Math.max(0, Math.min(1, ((px.x - a.x) * dx + (px.y - a.y) * dy) / length)) : 0
                place = { x: a.x + t * dx, y: a.y + t * dy }
            }
            const away = Math.hypot(place.x - px.x, place.y - px.y)
            if (!best || away < best.away) best = { place, away }
        }
    }
    return best
}

/** The height of lines at a horizontal place; of several the one nearest to a wanted height. */
export function heightAt(lines: Place[][], x: number, wanted: number): number | undefined {
    let best: number | undefined
    for (const line of lines) {
        for (let k = 0; k + 1 < line.length; k++) {
            const [a, b] = [line[k] as Place, line[k + 1] as Place]
            if ((a.x <= x && x <= b.x) || (b.x <= x && x <= a.x)) {
                const y = a.x === b.x ? a.y : a.y + ((x - a.x) / (b.x - a.x)) * (b.y - a.y)
                if (best === undefined || Math.abs(y - wanted) < Math.abs(best - wanted)) best = y
            }
        }
    }
    return best
}

/** A number as it is read off: as many digits as a thousandth of a pixel's worth says, and no noise. */
export function readOff(value: number, axis: Axis): string {
    const step = Math.abs(axis.high - axis.low) / 20_000
    const decimals = Math.max(0, Math.min(12, Math.ceil(-Math.log10(step || 1))))
    const size = Math.abs(value)
    if (size && (size < 1e-4 || size >= 1e7)) {
        const [front, power] = value.toExponential(4).split('e')
        return `${String(Number(front)).replace('-', '−')}·10${superscript(Number(power))}`
    }
    return String(Number(value.toFixed(decimals))).replace('-', '−')
}

/** A text without the signs of typesetting, for reading. */
export function plain(text: string | null | undefined): string {
    return (text ?? '')
        .replace(/\\(mathrm|mathit|mathbf|mathsf|text|operatorname|bf|rm|it)(?![a-zA-Z])\s*/g, '')
        .replace(/\\[,;:! ]/g, ' ')
        .replace(/[$\\{}]/g, '')
}

function superscript(power: number): string {
    return [...String(power)].map((c) => (c === '-' ? '⁻' : '⁰¹²³⁴⁵⁶⁷⁸⁹'[Number(c)])).join('')
}
