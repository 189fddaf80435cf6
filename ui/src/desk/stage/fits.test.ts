import { expect, it } from 'vitest'
import { frameOf, pathOf, sameFit, type FitFound, type FitsFound } from './fits'

const fit: FitFound = {
    name: 'straight line',
    formula: 'a + b*x',
    about: '',
    evidence: 'proven',
    parameters: [],
    aicc: 1,
    spread: 1,
    r_squared: 1,
    chi: null,
    curve: [
        [0, 1, 2],
        [0, null, 4]
    ],
    residuals: [-0.5, 0, 0.5],
    words: []
}
const found: FitsFound = {
    x: [0, 1, 2],
    y: [0, 2, 4],
    points: 3,
    of: 'ys',
    against: 'xs',
    has_errors: false,
    fits: [fit]
}

it('puts points into the upper part and what is left over below', () => {
    const frame = frameOf(found, fit, 100, 100)
    expect(frame.x(0)).toBe(4)
    expect(frame.x(2)).toBe(96)
    expect(frame.y(0)).toBeGreaterThan(frame.y(4))
    expect(frame.y(0)).toBeLessThan(frame.bottom)
    expect(frame.left(0.5)).toBeLessThan(frame.left(0))
    expect(frame.left(-0.5)).toBeLessThanOrEqual(100)
})

it('breaks a line where a value is missing', () => {
    expect(pathOf(...fit.curve, frameOf(found, fit, 100, 100)).match(/M/g)).toHaveLength(2)
})

it('takes two fits for one where no parameter differs by what its uncertainty can tell', () => {
    const parameter = (value: number, standard_error: number | null = 0.1) => ({
        name: 'a',
        value,
        standard_error,
        said: ''
    })
    const with_ = (value: number, error: number | null = 0.1): FitFound => ({
        ...fit,
        parameters: [parameter(value, error)]
    })
    expect(sameFit(with_(2), with_(2.0005))).toBe(true)
    expect(sameFit(with_(2), with_(2.01))).toBe(false)
    expect(sameFit(with_(2, null), with_(2 + 1e-12, null))).toBe(true)
    expect(sameFit(with_(2, null), with_(2.001, null))).toBe(false)
    expect(sameFit(with_(2), { ...fit, parameters: [] })).toBe(false)
})
