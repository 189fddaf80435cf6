import { describe, expect, it } from 'vitest'
import { barsPath, typedNumber, withCell, withColumn, withRow, type Recipe } from './recipe'

const recipe: Recipe = {
    format: 'text',
    encoding: 'utf-8',
    delimiter: ',',
    decimal: '.',
    quote: '"',
    comment: null,
    header: true,
    skip: 0,
    sheet: null,
    sheets: [],
    cells: null,
    columns: [
        { source: 'h', name: 'h', kind: 'number', unit: null, description: '', format: null, since: null, kept: true }
    ],
    corrections: [{ row: 2, column: 'h', value: 1 }],
    excluded: [5],
    computed: []
}

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
