/** How space falls on the sheet: parallel rays; the same sums as those of the drawing in print. */

import type { Place } from '../geometry'

export type Vector = [number, number, number]

export interface View {
    /** Degrees: the angle from the x axis towards the y axis at which the viewer stands, and the one above the floor. */
    azimuth: number
    elevation: number
}

/** The box of a window on space. Lengths are px of the sheet. */
export interface Frame {
    box: [[number, number], [number, number], [number, number]]
    proportions: Vector
    /** Px for one unit of the proportions; where the box's middle stands, from the window's left and bottom. */
    factor: number
    origin: [number, number]
}

export interface Axes {
    across: Vector
    up: Vector
    towards: Vector
}

export function axesOf(view: View): Axes {
    const [a, e] = [(view.azimuth * Math.PI) / 180, (view.elevation * Math.PI) / 180]
    const towards: Vector = [Math.cos(e) * Math.cos(a), Math.cos(e) * Math.sin(a), Math.sin(e)]
    const across: Vector = [-Math.sin(a), Math.cos(a), 0]
    return { towards, across, up: cross(towards, across) }
}

export function cross(a: Vector, b: Vector): Vector {
    return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
}

export function dot(a: Vector, b: Vector): number {
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

/** A place of space in the lengths of the proportions, counted from the box's middle. */
export function held(frame: Frame, place: Vector): Vector {
    return place.map((v, k) => {
        const [low, high] = frame.box[k] as [number, number]
        return ((v - (low + high) / 2) / (high - low)) * (frame.proportions[k] as number)
    }) as Vector
}

/** The other way. */
export function freed(frame: Frame, place: Vector): Vector {
    return place.map((v, k) => {
        const [low, high] = frame.box[k] as [number, number]
        return (low + high) / 2 + (v / (frame.proportions[k] as number)) * (high - low)
    }) as Vector
}

/** On the window: px from its left and its top. */
export function project(frame: Frame, axes: Axes, place: Vector, height: number): Place {
    const at = held(frame, place)
    return {
        x: frame.origin[0] + frame.factor * dot(at, axes.across),
        y: height - frame.origin[1] - frame.factor * dot(at, axes.up)
    }
}

/** The view after the hand moved by so many px: what is touched follows it. */
export function turned(view: View, dx: number, dy: number): View {
    const azimuth = ((((view.azimuth - dx * 0.5 + 180) % 360) + 360) % 360) - 180
    return { azimuth, elevation: Math.max(-90, Math.min(90, view.elevation + dy * 0.5)) }
}

export const VIEWS: { label: string; note: string; view: View }[] = [
    { label: 'From above', note: 'x to the right, y upwards (a)', view: { azimuth: -90, elevation: 90 } },
    { label: 'Front', note: 'Along the y axis (f)', view: { azimuth: -90, elevation: 0 } },
    { label: 'Side', note: 'Along the x axis (d)', view: { azimuth: 0, elevation: 0 } }
]

/** The box no larger than in print, and so small that it and its numbers stay in the window from wherever it is seen. */
export function fitted(frame: Frame, axes: Axes, size: [number, number]): Frame {
    const corners = [0, 1, 2, 3, 4, 5, 6, 7].map((k) => {
        const at = held(frame, frame.box.map((ends, j) => ends[(k >> j) & 1]) as Vector)
        return [dot(at, axes.across), dot(at, axes.up)] as [number, number]
    })
    const ends = [0, 1].map((k) => {
        const values = corners.map((c) => c[k] as number)
        return [Math.min(...values), Math.max(...values)] as [number, number]
    }) as [[number, number], [number, number]]
    const room = [size[0] - 88, size[1] - 66]
    const factor = Math.min(frame.factor, ...ends.map(([a, b], k) => Math.max(room[k] as number, 40) / (b - a)))
    const origin = ends.map(([a, b], k) => (size[k] as number) / 2 - (factor * (a + b)) / 2) as [number, number]
    return { ...frame, factor, origin }
}

/** The coordinates of the box's faces behind everything, and for each axis the edge of its outline that carries numbers. */
export function edgesOf(frame: Frame, axes: Axes): { behind: Vector; edges: [Vector, Vector][] } {
    const behind = frame.box.map(([low, high], k) => ((axes.towards[k] as number) > -1e-12 ? low : high)) as Vector
    const edges = [0, 1, 2].map((k) => {
        const [i, j] = [0, 1, 2].filter((n) => n !== k) as [number, number]
        let best: { edge: [Vector, Vector]; cost: number } | undefined
        for (const a of frame.box[i] as [number, number])
            for (const b of frame.box[j] as [number, number]) {
                if ((a === behind[i]) === (b === behind[j])) continue
                const ends = (frame.box[k] as [number, number]).map((v) => {
                    const end: Vector = [0, 0, 0]
                    end[k] = v
                    end[i] = a
                    end[j] = b
                    return end
                }) as [Vector, Vector]
                const [p, q] = ends.map((e) => project(frame, axes, e, 0)) as [Place, Place]
                const cost = k < 2 ? -(p.y + q.y) : p.x + q.x
                if (!best || cost < best.cost) best = { edge: ends, cost }
            }
        return best?.edge ?? ([behind, behind] as [Vector, Vector])
    })
    return { behind, edges }
}

/** The borders of the box's faces behind everything, two ends each. */
export function boxOf(frame: Frame, axes: Axes): [Vector, Vector][] {
    const { behind } = edgesOf(frame, axes)
    const found: [Vector, Vector][] = []
    for (let k = 0; k < 3; k++) {
        const [i, j] = [0, 1, 2].filter((n) => n !== k) as [number, number]
        for (const [along, other] of [
            [i, j],
            [j, i]
        ] as [number, number][])
            for (const at of frame.box[other] as [number, number]) {
                const ends = (frame.box[along] as [number, number]).map((v) => {
                    const end: Vector = [0, 0, 0]
                    end[k] = behind[k] as number
                    end[other] = at
                    end[along] = v
                    return end
                })
                found.push(ends as [Vector, Vector])
            }
    }
    return found
}

/** Round numbers in a span, about as many as there is room for. */
export function ticksOf(low: number, high: number, length: number): number[] {
    const count = Math.max(2, Math.min(9, length / 36))
    const rough = (high - low) / count
    const power = 10 ** Math.floor(Math.log10(rough))
    const step = ([1, 2, 2.5, 5, 10].find((s) => s * power >= rough * 0.999) ?? 10) * power
    const found = []
    for (let k = Math.ceil(low / step - 1e-9); k * step <= high + 1e-9 * step; k++) found.push(k * step)
    return found
}

/** A number of an axis, without the noise of its sum. */
export function tickText(value: number, ticks: number[]): string {
    const step = ticks.length > 1 ? Math.abs((ticks[1] as number) - (ticks[0] as number)) : 1
    const decimals = Math.max(
        0,
        Math.min(
            10,
            Math.ceil(-Math.log10(step) - 1e-9) + ((step * 10 ** Math.ceil(-Math.log10(step))) % 1 > 1e-6 ? 1 : 0)
        )
    )
    if (step >= 1e5 || step < 1e-5) return value.toExponential(1).replace('-', '−')
    return (Math.abs(value) < step * 1e-9 ? 0 : value).toFixed(decimals).replace('-', '−')
}
