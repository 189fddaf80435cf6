import { describe, expect, it } from 'vitest'
import { grouped, intervalText, longPieces, numberTex, outward, quotientTex, resultTex } from './numbers'
import type { Finding } from './record'

const finding = (values: Finding['values'], more: Partial<Finding> = {}): Finding => ({
    number: 1,
    line: 1,
    name: null,
    noun: 'roots',
    statement: '',
    values,
    evidence: 'proven',
    complete: true,
    summary: '',
    method: '',
    notes: [],
    ...more
})

/** The result without the places at which it may be broken. */
const shown = (found: Finding) =>
    resultTex(found).replaceAll('}\\allowbreak \\text{', '').replaceAll('\\allowbreak ', '')

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

    it('writes quotients', () => expect(quotientTex('-5/6')).toBe('-\\tfrac{5}{6}'))
})

describe('findings in several variables', () => {
    it('names all of them, also where no interval is known', () => {
        const row = {
            x: 4,
            y: 2,
            value: 22,
            evidence: 'proven',
            overall: true,
            what: 'maximum',
            intervals: { x: null, y: null }
        }
        expect(shown(finding([row as never], { noun: 'highest' }))).toBe('22\\ \\text{ at }\\ (x,y) = (4,\\,2)')
    })
    it('says a limit that is infinite, and that there is none', () => {
        expect(shown(finding([{ value: null, limit: '-infinity' }], { noun: 'limit' }))).toBe('-\\infty')
        expect(
            resultTex(
                finding(
                    [
                        { value: null, side: 'left' },
                        { value: 1, side: 'right' }
                    ],
                    { noun: 'limit' }
                )
            )
        ).toBe('\\text{none}')
    })
    it('says spans as they are said', () =>
        expect(shown(finding([{ kind: 'span' }], { noun: 'solution', summary: 'It holds for x < 2.' }))).toBe(
            '\\text{x < 2}'
        ))
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

describe('results in one line', () => {
    it('names each root by its variable', () =>
        expect(shown(finding([{ x: 0.25 }, { x: 0.5 }], { variable_latex: 'y' }))).toBe(
            'y_{1} = 0.25,\\ \\ y_{2} = 0.5'
        ))
    it('counts what is not shown', () =>
        expect(shown(finding(Array.from({ length: 127 }, (_, k) => ({ x: k }))))).toContain('127 in all'))
    it('names a formula in many pieces, which stand below', () => {
        const rows = [1, 2, 3, 4].map((k) => `${k}\\,t & \\text{when } t < ${k}`)
        const latex = `f(t) = \\begin{cases}${rows.join(' \\\\ ')}\\end{cases}`
        expect(shown(finding([{}], { latex }))).toBe('f(t) = \\text{a formula in 4 pieces}')
        expect(longPieces(latex)?.rows[3]).toEqual(['4\\,t', '\\text{when } t < 4'])
        const short = `f(t) = \\begin{cases}${rows.slice(2).join(' \\\\ ')}\\end{cases}`
        expect(shown(finding([{}], { latex: short }))).toBe(short)
    })
    it('shows none', () => expect(shown(finding([]))).toBe('\\text{none}'))
    it('shows quotients both ways', () =>
        expect(shown(finding([{ value: 5 / 6, exact: '5/6' }], { noun: 'show' }))).toBe(
            '\\tfrac{5}{6} = 0.833\\,333\\,333\\,333'
        ))
    it('escapes text', () =>
        expect(shown(finding([{ value: '50 % {x}' }], { noun: 'show' }))).toBe('\\text{“50 \\% \\{x\\}”}'))
    it('shows checks and truth', () => {
        expect(shown(finding([{ passed: false }], { noun: 'check' }))).toBe('\\text{fails}')
        expect(shown(finding([{ value: true }], { noun: 'show' }))).toBe('\\text{true}')
    })
    it('shows stretches', () => expect(shown(finding([{ x: -1, x_high: 0 }]))).toBe('x = -1 \\ldots 0'))
    it('shows lists', () =>
        expect(shown(finding([{ value: [1, 2, 3, 4, 5, 6], length: 6 }], { noun: 'show' }))).toContain('6 in all'))
})

describe('what loops, solutions and tables found', () => {
    it.each([
        ['passes', finding([{ value: 1 }, { value: 2.5 }], { noun: 'show', passes: 2 }), '1,\\ \\ 2.5'],
        [
            'checks of passes',
            finding([{ passed: true }, { passed: false }], { noun: 'check', passes: 2 }),
            '\\text{fails in 1 of 2 passes}'
        ],
        ['checks that all hold', finding([{ passed: true }], { noun: 'check', passes: 1 }), '\\text{holds}'],
        [
            'a table',
            finding([{ x: 1, value: 2 }], { noun: 'values', summary: '1 row of x, f' }),
            '\\text{1 row of x, f}'
        ],
        ['a unit', finding([{ value: 9.81, unit: 'm s⁻²' }], { noun: 'show' }), '9.81\\ \\text{m s⁻²}'],
        [
            'signs in a unit',
            finding([{ value: 2, unit: 'm^(3/2)' }], { noun: 'show' }),
            '2\\ \\text{m\\textasciicircum (3/2)}'
        ],
        ['a gap', finding([{ value: null }], { noun: 'show' }), '\\text{gap}'],
        ['a list with a gap', finding([{ value: [1, null, 3] }], { noun: 'show' }), '[1,\\ \\text{gap},\\ 3]'],
        [
            'points',
            finding([{ value: [[1, 2]] }], { noun: 'show', summary: '[(1, 2)], 1 element' }),
            '\\text{[(1, 2)], 1 element}'
        ],
        ['no solution', finding([], { noun: 'solution' }), '\\text{none}'],
        ['families', finding([{ family: 'x = 2π*n' }], { noun: 'solution' }), '\\text{x = 2π*n}'],
        [
            'roots in exact forms',
            finding([{ value: 0.866, exact: '√3/2' }], { noun: 'show' }),
            '\\tfrac{\\sqrt{3}}{2} = 0.866'
        ],
        ['long whole numbers', finding([{ value: 1e30, exact: '1'.repeat(31) }], { noun: 'show' }), '10^{30}']
    ])('%s', (_, found, tex) => expect(shown(found)).toBe(tex))
})

describe('long results', () => {
    it('may be broken between words, and no word is lost', () => {
        const summary =
            'A = 1.716 ± 0.025; w = 5.036 ± 0.013; p = 0.568 ± 0.030; c = 0.395 ± 0.018 and more words to the end.'
        const tex = resultTex(finding([{ parameters: [] } as never], { noun: 'fit', summary }))
        expect(tex.match(/\\allowbreak/g)?.length).toBeGreaterThan(10)
        expect(shown(finding([{ parameters: [] } as never], { noun: 'fit', summary }))).toBe(
            `\\text{${summary.slice(0, -1)}}`
        )
    })
    it('may be broken between places', () =>
        expect(resultTex(finding([{ x: 1 }, { x: 2 }, { x: 3 }]))).toContain('\\allowbreak'))
})
