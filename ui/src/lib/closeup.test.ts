import { describe, expect, it } from 'vitest'
import { counted, pathOf, placed, rangeOf, whyText, type Ruled } from './closeup'

describe('the picture near a place', () => {
    it('has room above and below, and the axis where it is asked for', () => {
        expect(rangeOf([1, 2], false)).toEqual([0.92, 2.08])
        expect(rangeOf([1, 2], true)).toEqual([-0.16, 2.16])
        expect(rangeOf([3, 3], false)).toEqual([2, 4])
        expect(rangeOf([null, null], false)).toEqual([-1, 1])
    })
    it('is broken by gaps', () => {
        expect(pathOf([0, 1, null, 1, 0], [0, 1], 100, 10)).toBe('M0.0 10.0L25.0 0.0M75.0 0.0L100.0 10.0')
    })
})

describe('the strip of spans', () => {
    const strip: Ruled[] = [
        [-2, 0, 'away'],
        [0, 1, 'one'],
        [1, 2, 'monotone']
    ]
    it('lies side by side', () => {
        expect(placed(strip).map((s) => [s.left, s.width])).toEqual([
            [0, 50],
            [50, 25],
            [75, 25]
        ])
    })
    it('is never too thin to be seen', () =>
        expect(
            placed([
                [0, 1e-9, 'one'],
                [0, 1, 'away']
            ])[0]?.width
        ).toBe(0.25))
    it('is counted in words', () =>
        expect(counted(strip)).toBe(
            '3 spans: 1 ruled out because the values keep away from 0, 1 because the function rises or falls throughout without changing sign, 1 with exactly one zero'
        ))
    it('says why', () => expect(whyText('away')).toContain('away from 0'))
})
