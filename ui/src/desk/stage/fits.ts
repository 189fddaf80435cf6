/** Fits as the server proposes them. */
export interface FitFound {
    name: string
    formula: string
    about: string
    evidence: string
    parameters: { name: string; value: number; standard_error: number | null; said: string }[]
    aicc: number | null
    spread: number | null
    r_squared: number | null
    chi: number | null
    curve: [number[], (number | null)[]]
    residuals: number[]
    words: string[]
    at?: { x: number; value: number | null; error: number | null; beyond: boolean; said: string }
}
export interface FitsFound {
    x: number[]
    y: number[]
    points: number
    of: string
    against: string
    has_errors: boolean
    fits: FitFound[]
}

/** Whether two fits are one: no parameter differs by as much as a hundredth of its uncertainty. */
export function sameFit(one: FitFound, other: FitFound): boolean {
    return one.parameters.every((p) => {
        const q = other.parameters.find((o) => o.name === p.name)
        const room = Math.max(0.01 * (p.standard_error ?? 0), 1e-9 * Math.abs(p.value))
        return q !== undefined && Math.abs(p.value - q.value) <= room
    })
}

export interface Frame {
    x: (v: number) => number
    y: (v: number) => number
    left: (v: number) => number
    top: number
    bottom: number
    middle: number
}

/** Where points, curve and residuals of a small picture come: the upper part for the curve, a strip below for what is left over. */
export function frameOf(found: FitsFound, fit: FitFound, width: number, height: number): Frame {
    const curve = fit.curve[1].filter((v) => v !== null)
    const [x0, x1] = [Math.min(...found.x), Math.max(...found.x)]
    const low = Math.min(...found.y, ...curve)
    const high = Math.max(...found.y, ...curve)
    const strip = height * 0.24
    const upper = height - strip - 4
    const most = Math.max(...fit.residuals.map(Math.abs), Number.MIN_VALUE)
    const middle = height - strip / 2
    return {
        x: (v) => 4 + ((v - x0) / (x1 - x0 || 1)) * (width - 8),
        y: (v) => upper - 3 - ((v - low) / (high - low || 1)) * (upper - 6),
        left: (v) => middle - (v / most) * (strip / 2 - 2),
        top: 0,
        bottom: upper,
        middle
    }
}

/** A line through places, broken where one is missing. */
export function pathOf(xs: number[], ys: (number | null)[], frame: Frame): string {
    let broken = true
    let path = ''
    xs.forEach((v, k) => {
        const y = ys[k]
        if (y === null || y === undefined) {
            broken = true
            return
        }
        path += `${broken ? 'M' : 'L'}${frame.x(v).toFixed(1)} ${frame.y(y).toFixed(1)}`
        broken = false
    })
    return path
}
