import { describe, expect, it } from 'vitest'
import { linesOf } from './drawing'
import {
    drawable,
    filling,
    heightAt,
    isStill,
    moved,
    nearest,
    panelAt,
    panned,
    readOff,
    STILL,
    toNumbers,
    toPx,
    zoomed,
    type Axis,
    type Panel
} from './geometry'

const linear: Axis = { low: -2, high: 2, scale: 'linear', text: 'x' }
const panels: Record<string, Panel> = {
    linear: { bounds_px: [40, 10, 400, 200], x: linear, y: { ...linear, low: 0, high: 10 }, line: 1 },
    logarithmic: {
        bounds_px: [40, 10, 400, 200],
        x: { low: 0.1, high: 1000, scale: 'logarithmic', text: null },
        y: { low: 1, high: 100, scale: 'logarithmic', text: null },
        line: 1
    },
    folded: {
        bounds_px: [40, 10, 400, 200],
        x: { ...linear, reversed: true },
        y: { low: -1000, high: 1000, scale: 'signed-logarithmic', threshold: 1, text: null },
        line: 1
    }
}

describe.each(Object.entries(panels))('places on a %s window', (_, panel) => {
    it('go to pixels and back', () => {
        for (const share of [0, 0.1, 0.37, 0.5, 1]) {
            const px = { x: 40 + 400 * share, y: 10 + 200 * share }
            const back = toPx(panel, toNumbers(panel, px))
            expect(back.x).toBeCloseTo(px.x, 8)
            expect(back.y).toBeCloseTo(px.y, 8)
        }
    })

    it('stay under the hand while it zooms', () => {
        const at = { x: 200, y: 70 }
        const window = moved(panel, zoomed(STILL, at, 2, 2))
        const before = toNumbers(panel, at)
        const seen = { ...panel, x: { ...panel.x }, y: { ...panel.y } }
        seen.x.low = Math.min(...window.x)
        seen.x.high = Math.max(...window.x)
        seen.y.low = Math.min(...window.y)
        seen.y.high = Math.max(...window.y)
        const after = toNumbers(seen, at)
        expect(after.x).toBeCloseTo(before.x, 8)
        expect(after.y).toBeCloseTo(before.y, 6)
    })

    it('fill the window with a box that was drawn', () => {
        const box: [number, number, number, number] = [100, 30, 80, 50]
        const window = moved(panel, filling(panel, box))
        const corner = toNumbers(panel, { x: 100, y: 80 })
        expect(window.x[0]).toBeCloseTo(corner.x, 8)
        expect(window.y[0]).toBeCloseTo(corner.y, 6)
    })
})

it('moves and rests', () => {
    expect(isStill(STILL)).toBe(true)
    expect(isStill(panned(STILL, 3, 0))).toBe(false)
    expect(isStill(panned(panned(STILL, 3, 5), -3, -5))).toBe(true)
    expect(drawable({ x: [0, 1], y: [0, 1] })).toBe(true)
    expect(drawable({ x: [0, 1e-16], y: [1, 1] })).toBe(false)
    expect(drawable({ x: [0, NaN], y: [0, 1] })).toBe(false)
})

it('finds what is nearest', () => {
    const lines = [
        [
            { x: 0, y: 0 },
            { x: 10, y: 0 }
        ],
        [{ x: 5, y: 8 }]
    ]
    expect(nearest(lines, { x: 4, y: 3 })).toEqual({ place: { x: 4, y: 0 }, away: 3 })
    expect(nearest(lines, { x: 5, y: 7 })?.away).toBe(1)
    expect(heightAt(lines, 4, 100)).toBe(0)
    expect(heightAt(lines, 40, 0)).toBeUndefined()
    const inset: Panel = { ...(panels.linear as Panel), bounds_px: [60, 20, 50, 40], inset: true }
    expect(panelAt([panels.linear as Panel, inset], { x: 70, y: 30 })).toBe(1)
    expect(panelAt([panels.linear as Panel, inset], { x: 300, y: 30 })).toBe(0)
    expect(panelAt([panels.linear as Panel], { x: 3, y: 3 })).toBe(-1)
})

it('reads numbers off with the digits that can be meant', () => {
    expect(readOff(1.23456789, linear)).toBe('1.2346')
    expect(readOff(-0.5, linear)).toBe('−0.5')
    expect(readOff(0, linear)).toBe('0')
    expect(readOff(2.5e-7, linear)).toBe('2.5·10⁻⁷')
})

it('reads path data', () => {
    expect(linesOf('M 0 0 \nL 72 36 \nM 1.5 -3 L 2 2')).toEqual([
        [
            { x: 0, y: 0 },
            { x: 96, y: 48 }
        ],
        [
            { x: 2, y: -4 },
            { x: 2 * (96 / 72), y: 2 * (96 / 72) }
        ]
    ])
    expect(linesOf('M 0 0 Q 1 1 72 0 z')[0]).toHaveLength(3)
    expect(linesOf('')).toEqual([])
})
