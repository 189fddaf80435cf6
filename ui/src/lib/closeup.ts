/** Small pictures of a function near a place, and the strip of spans that a search looked at. */

/** The range of values that is shown, with some room; with the axis in it where that is asked for. */
export function rangeOf(values: (number | null)[], axis: boolean): [number, number] {
    const known = values.filter((v): v is number => v !== null)
    if (!known.length) return [-1, 1]
    let low = Math.min(...known)
    let high = Math.max(...known)
    if (axis) {
        low = Math.min(low, 0)
        high = Math.max(high, 0)
    }
    if (low === high) return [low - 1, high + 1]
    const room = (high - low) * 0.08
    return [low - room, high + room]
}

/** The line through evenly spaced values as an SVG path; gaps break it. */
export function pathOf(values: (number | null)[], range: [number, number], width: number, height: number): string {
    let path = ''
    let drawn = false
    values.forEach((v, i) => {
        if (v === null) {
            drawn = false
            return
        }
        const x = (i / (values.length - 1)) * width
        const y = height - ((v - range[0]) / (range[1] - range[0])) * height
        path += `${drawn ? 'L' : 'M'}${x.toFixed(1)} ${y.toFixed(1)}`
        drawn = true
    })
    return path
}

export type Ruled = [low: number, high: number, why: string]

const WHY: Record<string, string> = {
    away: 'the values keep away from 0',
    monotone: 'the slope keeps its sign, and so do the values at both ends: no zero',
    one: 'the slope keeps its sign, and the values at the ends differ in theirs: exactly one zero',
    flat: 'zero throughout'
}

/** What became of a span, as a sentence. */
export function whyText(why: string): string {
    return WHY[why] ?? why
}

/** Left edge and width of each span in per cent of the whole; the thinnest can still be seen. */
export function placed(strip: Ruled[]): { left: number; width: number; why: string; low: number; high: number }[] {
    const low = Math.min(...strip.map((s) => s[0]))
    const high = Math.max(...strip.map((s) => s[1]))
    const whole = high - low || 1
    return strip.map(([a, b, why]) => ({
        left: ((a - low) / whole) * 100,
        width: Math.max(((b - a) / whole) * 100, 0.25),
        why,
        low: a,
        high: b
    }))
}

/** How many spans met each end, in words. */
export function counted(strip: Ruled[]): string {
    const count = (why: string): number => strip.filter((s) => s[2] === why).length
    const said = [
        count('away') ? `${count('away')} ruled out because the values keep away from 0` : '',
        count('monotone')
            ? `${count('monotone')} because the function rises or falls throughout without changing sign`
            : '',
        count('one') ? `${count('one')} with exactly one zero` : '',
        count('flat') ? `${count('flat')} zero throughout` : ''
    ].filter(Boolean)
    return `${strip.length} spans: ${said.join(', ')}`
}
