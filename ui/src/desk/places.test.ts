import { Text } from '@codemirror/state'
import { describe, expect, it } from 'vitest'
import { changeOf, offsetOf, spanOf } from './places'

const doc = Text.of(['x = 1', 'y = "💧💧" + 1/2x', ''])

describe('places of the record in the editor', () => {
    it('counts from one', () => expect(offsetOf(doc, 1, 1)).toBe(0))
    it('counts characters, not units', () => {
        const from = offsetOf(doc, 2, 15)
        expect(doc.sliceString(from, from + 1)).toBe('x')
    })
    it('stays inside the text', () => {
        expect(offsetOf(doc, 1, 99)).toBe(5)
        expect(offsetOf(doc, 99, 1)).toBe(doc.length)
        expect(offsetOf(doc, 0, 1)).toBe(0)
    })
    it('gives spans', () => expect(spanOf(doc, { line: 1, column: 5, end_column: 6 })).toEqual({ from: 4, to: 5 }))
    it('gives changes over several lines', () => {
        const change = changeOf(doc, { line: 1, column: 6, end_line: 2, end_column: 1, text: ' ' })
        expect(change).toEqual({ from: 5, to: 6, insert: ' ' })
    })
})
