import { describe, expect, it } from 'vitest'
import { barsPath, decided, openDoubts, typedNumber, withCell, withColumn, withRow, type Recipe } from './recipe'

const recipe: Recipe = {
    format: 'text',
    encoding: 'utf-8',
    delimiter: ',',
    decimal: '.',
    quote: '"',
    comment: null,
    header: true,
    skip: 0,
    units_row: false,
    sheet: null,
    sheets: [],
    cells: null,
    columns: [
        {
            source: 'h',
            name: 'h',
            kind: 'number',
            unit: null,
            description: '',
            format: null,
            since: null,
            kept: true,
            carries: null,
            uncertain: false,
            gaps: []
        }
    ],
    corrections: [{ row: 2, column: 'h', value: 1 }],
    excluded: [5],
    computed: [],
    doubts: [
        { key: 'decimal', text: 'either', column: null, other: 'the other', change: { decimal: ',' } },
        { key: 'gaps:h', text: 'a sign', column: 'h', other: 'a gap', change: { gaps: [-999] } }
    ],
    settled: []
}

describe('a doubt', () => {
    it('is gone once it is decided, one way or the other', () => {
        const [decimal, sign] = recipe.doubts as [(typeof recipe.doubts)[0], (typeof recipe.doubts)[0]]
        const kept = decided(recipe, decimal, false)
        expect([kept.decimal, openDoubts(kept)]).toEqual(['.', [sign]])
        const other = decided(decided(recipe, decimal, true), sign, true)
        expect([other.decimal, other.columns[0]?.gaps, openDoubts(other)]).toEqual([',', [-999], []])
        expect(recipe.columns[0]?.gaps).toEqual([])
    })
})

describe('a recipe mended by hand', () => {
    it('counts rows and leaves them out', () => {
        expect(withRow(recipe, 3, false).excluded).toEqual([3, 5])
        expect(withRow(recipe, 5, true).excluded).toEqual([])
        expect(recipe.excluded).toEqual([5])
    })
    it('corrects a cell, once, and takes that back', () => {
        expect(withCell(recipe, 2, 'h', 7).corrections).toEqual([{ row: 2, column: 'h', value: 7 }])
        expect(withCell(recipe, 2, 'h', undefined).corrections).toEqual([])
        expect(withCell(recipe, 9, 'h', null).corrections).toHaveLength(2)
    })
    it('renames a column with its corrections', () => {
        const found = withColumn(recipe, 'h', { name: 'depth', unit: 'm' })
        expect(found.columns[0]).toMatchObject({ source: 'h', name: 'depth', unit: 'm' })
        expect(found.corrections[0]?.column).toBe('depth')
    })
})

describe('a typed number', () => {
    it.each([
        ['1,5', 1.5],
        ['−2e-3', -0.002],
        ['', null],
        [' gap ', null],
        ['ten', undefined]
    ])('%s', (text, value) => expect(typedNumber(text)).toBe(value))
})

it('draws one bar for each filled bin', () => {
    expect(barsPath([0, 2, 4], 30, 10).match(/M/g)).toHaveLength(3)
    expect(barsPath([0, 2, 4], 30, 10)).toContain('v-10.00')
})
