import { describe, expect, it } from 'vitest'
import { grouped, intervalText, longPieces, numberTex, outward, uncertainText, whatText, withError } from './numbers'

describe('digits in groups', () => {
    it.each([
        ['1234', '1234'],
        ['12345', '12 345'],
        ['0.6912343859', '0.691 234 385 9'],
        ['1234567.12345', '1 234 567.123 45'],
        ['0.1234', '0.1234']
    ])('%s', (digits, expected) => expect(grouped(digits, ' ')).toBe(expected))
})

describe('numbers as mathematics', () => {
    it.each([
        [0, '0'],
        [-1.5, '-1.5'],
        [2 / 3, '0.666\\,666\\,666\\,7'],
        [1e-9, '10^{-9}'],
        [-6.022e23, '-6.022 \\times 10^{23}'],
        [123456, '123\\,456'],
        [Infinity, '\\infty'],
        [NaN, '\\text{undefined}']
    ])('%d', (value, expected) => expect(numberTex(value)).toBe(expected))
})

describe('a number rounded by its uncertainty', () => {
    it.each([
        [2.5, 0.05, '2.500 ± 0.050'],
        [1.5537, 0.00402, '1.5537 ± 0.0040'],
        [71.50141864, 0.0781, '71.501 ± 0.078'],
        [-3, 0.123, '−3.00 ± 0.12'],
        [0.001, 0.5, '0.00 ± 0.50'],
        [1234567, 123, '1.23457e+6 ± 120']
    ])('%d', (value, error, expected) => expect(uncertainText(value, error)).toBe(expected))
})

describe('a number with its uncertainty', () => {
    it.each([
        ['2.5', 0.05, '2.5 ± 0.05'],
        ['3', 0, '3'],
        ['3', undefined, '3']
    ])('%s', (text, error, expected) => expect(withError(text, error)).toBe(expected))
})

describe('intervals only grow when they are shortened', () => {
    it.each([
        ['0.36578668224635298411', false, 6, '0.365786'],
        ['0.36578668224635298411', true, 6, '0.365787'],
        ['-0.36578668224635298411', false, 6, '-0.365787'],
        ['-0.36578668224635298411', true, 6, '-0.365786'],
        ['9.99999999', true, 3, '10.00'],
        ['0.0012345', true, 3, '0.00124'],
        ['12', true, 18, '12'],
        ['1.23456e-7', true, 3, '1.24e-7'],
        ['123456789012345678901', true, 5, '123456789012345678901'],
        ['2.500', true, 2, '2.5']
    ])('%s up: %s to %i digits', (text, up, digits, expected) => expect(outward(text, up, digits)).toBe(expected))

    it('says when both ends are one', () => expect(intervalText(['3', '3'])).toBe('exactly 3'))
    it('groups and uses a true minus', () =>
        expect(intervalText(['-1.23456', '-1.23455'])).toBe('[−1.234\u202f56, −1.234\u202f55]'))
})

describe('formulas in pieces', () => {
    const rows = [1, 2, 3, 4].map((k) => `${k}\\,t & \\text{when } t < ${k}`)
    const cases = (some: string[]) => `f(t) = \\begin{cases}${some.join(' \\\\ ')}\\end{cases}`
    it('are taken apart where a line does not hold them', () =>
        expect(longPieces(cases(rows))?.rows[3]).toEqual(['4\\,t', '\\text{when } t < 4']))
    it('stay whole where it does', () => expect(longPieces(cases(rows.slice(2)))).toBeUndefined())
})

describe('what a place is', () => {
    it.each([
        [{ what: 'maximum', overall: true }, 'maximum, highest of all'],
        [{ what: 'minimum' }, 'minimum'],
        [{ kind: 'touching' }, 'touching'],
        [{ kind: 'end' }, '']
    ])('%o', (row, words) => expect(whatText(row as never)).toBe(words))
})
