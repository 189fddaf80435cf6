import { describe, expect, it } from 'vitest'
import { axesOf, dot, edgesOf, fitted, freed, held, project, ticksOf, tickText, turned, type Frame } from './camera'
import { cutOf } from './cut'
import { hitAt } from './pick'
import { outwards, tintShare, type Shape, type Solid, type SpaceWindow } from './scene'

const frame: Frame = {
    box: [
        [0, 2],
        [0, 10],
        [-1, 1]
    ],
    proportions: [1, 1, 0.6],
    factor: 200,
    origin: [160, 120]
}

describe('the camera', () => {
    it('stands square, and turns nothing inside out', () => {
        for (const view of [
            { azimuth: 35, elevation: 27 },
            { azimuth: -120, elevation: -40 },
            { azimuth: 0, elevation: 90 }
        ]) {
            const { across, up, towards } = axesOf(view)
            for (const [a, b, wanted] of [
                [across, across, 1],
                [up, up, 1],
                [across, up, 0],
                [up, towards, 0]
            ] as const)
                expect(dot(a, b)).toBeCloseTo(wanted, 12)
        }
    })
    it('goes to the lengths of the box and back', () => {
        expect(held(frame, [2, 5, 0])).toEqual([0.5, 0, 0])
        expect(freed(frame, held(frame, [0.3, 7, -0.4]))).toEqual([0.3, 7, -0.4].map((v) => expect.closeTo(v, 12)))
    })
    it('puts the middle of the box where it is told to', () => {
        const at = project(frame, axesOf({ azimuth: 77, elevation: 12 }), [1, 5, 0], 240)
        expect(at.x).toBeCloseTo(160)
        expect(at.y).toBeCloseTo(120)
    })
    it('follows the hand, and never goes over the top', () => {
        expect(turned({ azimuth: 170, elevation: 80 }, -40, 60)).toEqual({ azimuth: -170, elevation: 90 })
    })
    it('keeps the box in the window from wherever it is seen', () => {
        for (let azimuth = -180; azimuth < 180; azimuth += 15)
            for (const elevation of [-60, 0, 30, 90]) {
                const axes = axesOf({ azimuth, elevation })
                const now = fitted(frame, axes, [320, 240])
                for (const x of frame.box[0])
                    for (const y of frame.box[1])
                        for (const z of frame.box[2]) {
                            const at = project(now, axes, [x, y, z], 240)
                            expect(at.x).toBeGreaterThan(0)
                            expect(at.x).toBeLessThan(320)
                            expect(at.y).toBeGreaterThan(0)
                            expect(at.y).toBeLessThan(240)
                        }
                expect(now.factor).toBeGreaterThan(60)
            }
    })
    it('puts numbers at the lowest edges and at the one farthest to the left', () => {
        const axes = axesOf({ azimuth: 35, elevation: 27 })
        const { behind, edges } = edgesOf(frame, axes)
        expect(behind).toEqual([0, 0, -1])
        expect(edges[0]?.map((p) => p[1])).toEqual([10, 10])
        expect(edges[1]?.map((p) => p[0])).toEqual([2, 2])
        expect(edges[2]?.map((p) => [p[0], p[1]])).toEqual([
            [2, 0],
            [2, 0]
        ])
    })
})

describe('numbers of an axis', () => {
    it('are round, as many as there is room for, without noise', () => {
        expect(ticksOf(-1, 1, 160)).toEqual([-1, -0.5, 0, 0.5, 1])
        const ticks = ticksOf(0, 0.3, 240)
        expect(ticks.map((t) => tickText(t, ticks))).toEqual(['0.00', '0.05', '0.10', '0.15', '0.20', '0.25', '0.30'])
        expect(tickText(-2.5, [-2.5, 0, 2.5])).toBe('−2.5')
    })
})

describe('a plane through triangles', () => {
    const shape: Shape = {
        vertices: new Float32Array([0, 0, 0, 1, 0, 1, 0, 1, 1, 1, 1, 2]),
        normals: new Float32Array(12),
        triangles: new Uint32Array([0, 1, 2, 1, 3, 2]),
        params: undefined,
        tints: undefined
    }
    it('cuts each that it passes through', () => {
        const pieces = cutOf(shape, { axis: 2, value: 0.5 })
        expect(pieces).toHaveLength(1)
        for (const end of pieces[0] ?? []) expect(end[0] + end[1]).toBeCloseTo(0.5)
        expect(cutOf(shape, { axis: 2, value: 1.5 })).toHaveLength(1)
        expect(cutOf(shape, { axis: 2, value: 5 })).toHaveLength(0)
    })
})

describe('the scale of colours', () => {
    it('is that of the drawing in print', () => {
        const spec = { low: 1, high: 100, text: '', scale: 'logarithmic', threshold: 1 }
        expect(tintShare(spec, 10)).toBeCloseTo(0.5)
        expect(tintShare({ ...spec, scale: 'linear' }, 50.5)).toBeCloseTo(0.5)
    })
})

describe('triangles', () => {
    // The corners of a tetrahedron; one of its triangles faces outwards where its normal points away from the fourth corner.
    const vertices = new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1])
    const inwards = new Uint32Array([0, 1, 2, 0, 2, 3, 0, 3, 1, 1, 3, 2])
    it('of a closed shape are turned to face outwards', () => {
        const turned_ = outwards({ vertices, triangles: inwards })
        expect([...turned_]).toEqual([0, 2, 1, 0, 3, 2, 0, 1, 3, 1, 2, 3])
        expect([...outwards({ vertices, triangles: turned_ })]).toEqual([...turned_])
    })
})

describe('the pointer', () => {
    const sheet = (z: number): Solid => {
        const shape: Shape = {
            vertices: new Float32Array([0, 0, z, 2, 0, z, 0, 10, z, 2, 10, z]),
            normals: new Float32Array(12),
            triangles: new Uint32Array([0, 1, 2, 1, 3, 2]),
            params: new Float32Array([0, 0, 2, 0, 0, 10, 2, 10]),
            tints: undefined
        }
        return { kind: 'surface', id: String(z), coarse: shape } as unknown as Solid
    }
    const window_ = { things: [sheet(-0.5), sheet(0.25)] } as unknown as SpaceWindow
    const view = { azimuth: -90, elevation: 90 }
    const seen = { frame, view, zoom: 1, shift: { x: 0, y: 0 }, fine: true, cut: [] }
    it('finds the nearest surface, and its parameters there', () => {
        const at = project(frame, axesOf(view), [0.5, 4, 0.25], 240)
        const found = hitAt(window_, frame, 240, at, seen)
        expect(found?.solid.id).toBe('0.25')
        expect(found?.params?.[0]).toBeCloseTo(0.5)
        expect(found?.params?.[1]).toBeCloseTo(4)
        expect(found?.place[2]).toBeCloseTo(0.25)
        expect(hitAt(window_, frame, 240, { x: at.x + 500, y: at.y }, seen)).toBeUndefined()
    })
    it('finds it where it was moved to', () => {
        const at = project(frame, axesOf(view), [0.5, 4, 0.25], 240)
        const moved = { ...seen, shift: { x: 30, y: -20 } }
        const found = hitAt(window_, frame, 240, { x: at.x + 30, y: at.y - 20 }, moved)
        expect(found?.place[0]).toBeCloseTo(0.5)
        expect(found?.place[1]).toBeCloseTo(4)
    })
})
